import {
  disk,
  here,
  INSTALL,
  GAME,
  outcomes,
  contextOf,
  targetNow,
  noteJob,
  noted,
  run,
  type Image,
  imageOf,
  POWER_WENT,
  failingAfter,
  differences,
  gameFile,
  laidSheet,
  type World,
  goBackTo,
  readyToLayDown,
} from '../testing/way';
import { ALL_SHARED } from '#core/profiles';
import { beforeAll, describe, expect, it } from 'vitest';
import { asMod, DepotIndexSchema } from '#core/builds';
import { manifestInArchive, parseHoldSheet, SHEET_FILES, SHEET_TEXTS, shelfOffer } from '#core/hold';
import { CatalogueSchema } from '#core/mods';
import { bagName } from '#core/keepsakes';
import { archivePath, treePath } from '~/folders';
import * as history from '~/queries/history';
import * as keepsakes from '~/queries/keepsakes';
import * as losses from '~/queries/losses';
import * as profiles from '~/queries/profiles';
import * as stages from '~/queries/stages';
import { importProfile, makeProfile, profileText } from '~/commands/profiles';
import { platformSha256 } from '~/remote/sha256';
import { getInstall, updateInstall } from '~/store/installs';
import { getHold } from '~/store/holds';
import { listShelved } from '~/store/shelved';
import { listProfiles, removeProfile } from '~/store/profile-records';
import { putOwnMods, removeOwnMod } from '~/store/own-mods';
import { FIRST_PROFILE } from '~/store/records';
import { getCatalogue } from '~/store/told';
import { catalogueOf } from '../../../core/testing/mods';
import { KINDS } from '.';

let ready: World;
beforeAll(async () => {
  ready = await readyToLayDown();
});

describe('profiles', () => {
  const saveAt = async (path: string): Promise<string | undefined> => {
    const { tree } = await getInstall(INSTALL);
    return (
      await here()
        .read(treePath(tree, `saves/${path}`))
        .catch(() => undefined)
    )?.join();
  };
  const gameNow = async (): Promise<Image> => {
    const { tree } = await getInstall(INSTALL);
    const files = [...(await imageOf(here()))].filter(([path]) => path.startsWith(treePath(`${tree}/`)));
    return new Map(files.map(([path, bytes]) => [path.slice(treePath(tree).length + 1), bytes]));
  };

  it.each([undefined, 30, 62, 120])(
    'one without mods and with saves of its own takes turns with a modded one, cut off after %s changes or not',
    async (cut) => {
      await goBackTo(ready);
      for (const { id } of await listProfiles(INSTALL)) await removeProfile(INSTALL, id, []);
      await noted('assemble');
      await run('assemble', await targetNow());
      const stranger = treePath((await getInstall(INSTALL)).tree, 'mods/keel-noise/keel.cfg');
      await here().writeWhole(stranger, new Uint8Array([1, 2]));
      await run('survey');
      const modded = await gameNow();
      const { build } = ready.install.target!;
      const calm = await makeProfile(INSTALL, {
        ...{ title: 'Calm', build, mods: 'none', startsEmpty: true },
        sharing: { ...ALL_SHARED, saves: 'own', presets: 'own' },
      });
      expect(await profiles.switchView(INSTALL, calm)).toMatchObject({
        toFetch: { files: 0 },
        own: { put: 0, taken: 7 },
      });

      const context = contextOf({ profile: calm });
      const job = await KINDS['switch-profile']();
      if (cut !== undefined) {
        const whole = here();
        disk.now = failingAfter(cut, whole);
        await job.run(context).catch((error: unknown) => {
          if (error !== POWER_WENT) throw error;
        });
        disk.now = whole;
      }
      await job.run(context);
      await noteJob('switch-profile', {}, context.id, 'done');
      const now = await getInstall(INSTALL);
      expect([now.profile, now.target!.releases, now.weights]).toEqual([calm, [], []]);
      expect(await saveAt('voyage-1.fws')).toBeUndefined();
      expect((await stages.frame(INSTALL)).laid).toBe(true);
      expect([...(await gameNow()).keys()].filter((path) => path.startsWith('mods/'))).toEqual([]);

      // The calm one is played; the modded one comes back as it was, strangers among its mods too.
      await here().writeWhole(treePath(now.tree, 'saves/calm.fws'), new Uint8Array([9]));
      await run('switch-profile', { profile: FIRST_PROFILE });
      expect(differences(await gameNow(), modded)).toEqual([]);
      await run('switch-profile', { profile: calm });
      expect([await saveAt('calm.fws'), await saveAt('voyage-1.fws')]).toEqual(['9', undefined]);

      const last = (await history.storeOfInstall(INSTALL))!.history[0]!;
      expect(last).toMatchObject({ what: 'switch-profile', facts: { profile: 'Calm', from: 'First' } });
      await run('take-back', { sets: [last.id], way: 'back' });
      expect((await getInstall(INSTALL)).profile).toBe(FIRST_PROFILE);
      expect(differences(await gameNow(), modded)).toEqual([]);
      expect((await stages.frame(INSTALL)).laid).toBe(true);
    },
  );

  it('a held folder is not switched, and a profile goes out as a file and comes in without what is not known', async () => {
    const { text } = await profileText(INSTALL, FIRST_PROFILE);
    const file = JSON.parse(text) as { target: { build: string; releases: Record<string, string> } };
    const [mod, other] = Object.keys(file.target.releases);
    file.target.releases[mod!] = '99';
    const bench = [mod, 'a-stranger'].map((one) => ({ mod: one, reason: 'later', at: 1 }));
    const decided = { ...file, bench, insisted: { [other!]: file.target.releases[other!], [mod!]: '99' } };
    const { id, unknown } = await importProfile(INSTALL, JSON.stringify(decided), 'p.json');
    expect(unknown).toEqual({ build: undefined, mods: [], releases: [{ mod, release: '99' }] });
    const [brought] = (await listProfiles(INSTALL)).filter((one) => one.id === id);
    const { target } = (await listProfiles(INSTALL)).find((one) => one.id === FIRST_PROFILE)!;
    expect(brought!.target!.releases).toEqual(target!.releases.filter(([of]) => of !== mod));
    expect(brought).toMatchObject({ bench: [bench[0]], insisted: [[other, file.target.releases[other!]]] });
    const again = JSON.parse((await profileText(INSTALL, id)).text) as object;
    expect(again).toMatchObject({ bench: [bench[0]], insisted: { [other!]: file.target.releases[other!] } });
    await expect(importProfile(INSTALL, text.replace('"version": 1', '"version": 2'), 'p.json')).rejects.toMatchObject({
      code: 'profile/unknown-version',
    });
    await removeProfile(INSTALL, id, []);
  });
});

describe('what is handed on, and taken out', () => {
  /** The folder as it was laid down, with a mod of nobody's that the target wants. */
  async function laidWithOwnMod(): Promise<string> {
    await goBackTo(ready);
    await noted('assemble');
    const path = 'mods/keel-noise/keel.fwm';
    const bytes = new Uint8Array([1, 2, 3]);
    await here().writeWhole(await gameFile(path), bytes);
    const files = [{ path, size: 3, sha256: await platformSha256(bytes), href: '' }];
    const { mods } = catalogueOf({ 'keel-noise': [{ version: '1', files }] });
    await putOwnMods(mods.map((mod) => ({ ...mod, game: GAME, from: 'by hand', at: 1 })));
    await updateInstall(INSTALL, (now) => ({
      ...now,
      target: { ...now.target!, releases: [...now.target!.releases, [asMod('keel-noise'), '1']] },
    }));
    await run('survey');
    await run('assemble', await targetNow());
    await run('survey');
    return path;
  }

  it('a hold sheet takes manifests and files of mods along, which come onto the shelf of who has them not', async () => {
    const path = await laidWithOwnMod();
    const sheet = await laidSheet();
    const packed = await run('pack-sheet', { sheet, manifests: true, mods: true });
    expect(outcomes.get(packed)).toEqual({ without: [] });
    const name = bagName(GAME, sheet.heldAt, 'hold-sheet');
    const from = new File([await here().read(archivePath(name))], `${name}.zip`);
    const look = await contextOf({}).pool.run({ do: 'look-into-bag', from, texts: SHEET_TEXTS });
    const texts = new Map(look.texts);
    expect(parseHoldSheet(texts.get(SHEET_FILES.sheet)!, 'sheet')).toEqual(sheet);
    for (const { id, manifestSha256 } of sheet.depots)
      expect(await platformSha256(texts.get(manifestInArchive(id))!)).toBe(manifestSha256);
    const handed = DepotIndexSchema.parse(JSON.parse(texts.get(SHEET_FILES.index)!));
    expect(handed.manifests.map(({ href, filesHref }) => [href, filesHref])).toEqual(
      handed.manifests.map(({ depot }) => [`${depot}.meta4`, '']),
    );

    // Whoever has neither the mod nor its files finds them in the archive.
    await removeOwnMod(GAME, asMod('keel-noise'));
    await here().remove(await gameFile(path));
    await run('survey');
    const catalogue = CatalogueSchema.parse(JSON.parse(texts.get(SHEET_FILES.catalogue)!));
    const offer = await shelfOffer({ sheet, catalogue, files: look.files }, await getCatalogue(GAME), platformSha256);
    expect(offer.takes.map(({ mod, isNew }) => [mod.id, isNew])).toEqual([['keel-noise', true]]);
    expect([offer.had, offer.refused]).toEqual([catalogue.mods.length - 1, []]);
    const { files } = offer.takes[0]!;
    const releases = [{ mod: 'keel-noise', release: '1', keys: files.map(({ key }) => key) }];
    const archives = [{ from, isBag: true, files: files.map((file) => ({ ...file, modified: 0 })) }];
    const add = offer.takes.map(({ mod }) => ({ ...mod, game: GAME, from: from.name, at: 1 }));
    await run('shelve', { archives, releases, add });
    const view = (await history.storeOfInstall(INSTALL))!;
    const isIt = ({ reason }: (typeof view.references)[number]): boolean =>
      reason.kind === 'release' && reason.mod === 'keel-noise';
    expect(view.references.find(isIt)).toMatchObject({ missing: 0, files: 1 });
    expect(await here().stat(await gameFile(path))).toBeUndefined();
    await run('assemble', await targetNow());
    expect((await stages.frame(INSTALL)).laid).toBe(true);
    expect([...(await here().read(await gameFile(path)))]).toEqual([1, 2, 3]);
    // Cancelled, nothing is on the shelf by it.
    await (
      await KINDS.shelve()
    ).undo!(contextOf({ archives, releases, add }));
    expect((await history.storeOfInstall(INSTALL))!.references.some(isIt)).toBe(false);
    expect((await listShelved(GAME)).map(({ mod }) => mod)).not.toContain('keel-noise');
    await removeOwnMod(GAME, asMod('keel-noise'));
  });

  it('files that are deleted are kept where nobody else has them, and all of them come back', async () => {
    const path = await laidWithOwnMod();
    await here().writeWhole(await gameFile('notes.txt'), new TextEncoder().encode('mine'));
    await here().setReadOnly(await gameFile('notes.txt'), true);
    await run('survey');
    const before = await imageOf(here());
    const { found, lost, own, again, fresh } = await losses.losses(INSTALL);
    expect(lost.map((file) => file.path)).toEqual([path, 'notes.txt']);
    expect([own.files > 8, again.files > 300, fresh]).toEqual([true, true, true]);

    const cut = contextOf({});
    const whole = here();
    disk.now = failingAfter(400, whole);
    const job = await KINDS['delete-files']();
    await expect(job.run(cut)).rejects.toBe(POWER_WENT);
    disk.now = whole;
    await job.run(cut);
    await noteJob('delete-files', {}, cut.id, 'done');
    const { tree } = await getInstall(INSTALL);
    expect(await whole.list(treePath(tree))).toEqual([]);
    const [kept] = (await keepsakes.keepsakes(INSTALL)).keepsakes;
    expect(kept).toMatchObject({ what: 'delete-files', files: own.files + lost.length });
    expect(kept!.files).toBeLessThan(found.size);
    await run('take-back', { sets: [cut.id], way: 'back' });
    expect(differences(await imageOf(whole), before, treePath(tree))).toEqual([]);
    expect(await whole.isReadOnly(await gameFile('notes.txt'))).toBe(true);
    await removeOwnMod(GAME, asMod('keel-noise'));
  });

  it('files that are held read-only are put right all the same, and are written again once the hold is let go', async () => {
    await laidWithOwnMod();
    const sheet = await laidSheet();
    await run('hold', { sheet, lockFiles: true });
    const hold = (await getHold(INSTALL))!;
    const program = await gameFile('bin/ferrywake.prog');
    expect(await here().isReadOnly(program)).toBe(true);
    expect(await here().isReadOnly(await gameFile('saves/voyage-1.fws'))).toBe(false);
    expect([hold.locked!.length > 300, hold.checks.at(-1)!.unlocked]).toEqual([true, 0]);
    // Somebody sets a flag back, changes a file and leaves its bytes elsewhere.
    await here().writeWhole(await gameFile('program.old'), await here().read(program));
    await here().setReadOnly(program, false);
    await here().writeWhole(program, new Uint8Array([0]));
    await run('survey', { checkHold: true });
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 2, unlocked: 1 });
    await here().setReadOnly(program, true);
    const { target, toFetch } = (await stages.holdView(INSTALL)).repair!;
    expect(toFetch).toBe(0);
    await run('assemble', { target: { ...target, decidedBy: 'hold-sheet', at: 0 }, way: 'in-place' });
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 0, unlocked: 0, repaired: 2 });
    await run('release', { sheet });
    expect([await here().isReadOnly(program), await getHold(INSTALL)]).toEqual([false, undefined]);
    await removeOwnMod(GAME, asMod('keel-noise'));
  });
});
