import {
  disk,
  here,
  INSTALL,
  GAME,
  RECORD_PATH,
  readRecord,
  contextOf,
  run,
  imageOf,
  folderFrom,
  failingAfter,
  differences,
  laidSheet,
  type World,
  goBackTo,
  readyToLayDown,
} from '../testing/way';
import { beforeAll, describe, expect, it } from 'vitest';
import { isFailure } from '#core/failure';
import { contentKey, PIECE_SIZE } from '#core/digest';
import { treePath } from '~/folders';
import * as history from '~/queries/history';
import * as stages from '~/queries/stages';
import { storefrontLooks } from '~/remote/services';
import { platformSha256 } from '~/remote/sha256';
import { getInstall, getSurvey, updateInstall } from '~/store/installs';
import { getHold } from '~/store/holds';
import { getGame, updateGame } from '~/store/games';
import { KINDS } from '.';

let ready: World;
beforeAll(async () => {
  ready = await readyToLayDown();
});

describe('a hold', () => {
  it('stops the storefront by its setting and a lock, and ends as if it had not been', async () => {
    await goBackTo(ready);
    const sheet = { ...(await laidSheet()) };
    const before = await imageOf(here());
    await (await KINDS.hold()).run(contextOf({ sheet }, 'hold-1'));
    expect((await readRecord(here())).updates).toBe('when-asked');
    expect(await here().isReadOnly(RECORD_PATH)).toBe(true);
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    await run('release', { sheet });
    expect(await getHold(INSTALL)).toBeUndefined();
    expect(await here().isReadOnly(RECORD_PATH)).toBe(false);
    expect((await readRecord(here())).updates).toBe('by-itself');
    const told = (await history.storeOfInstall(INSTALL))!;
    const ofHold = told.history.filter(({ what }) => what !== 'put-back');
    expect(ofHold.map(({ what, facts, state }) => [what, facts.build, state])).toEqual([
      ['release', sheet.build, 'made'],
      ['hold', sheet.build, 'made'],
    ]);
    // Cancelled in the middle, it leaves the record as it was.
    disk.now = await folderFrom(before);
    const whole = here();
    disk.now = failingAfter(4, whole);
    await expect((await KINDS.hold()).run(contextOf({ sheet }, 'hold-2'))).rejects.toThrow();
    disk.now = whole;
    await (
      await KINDS.hold()
    ).undo!(contextOf({ sheet }, 'hold-2'));
    expect(differences(await imageOf(whole), before)).toEqual(['history/hold-2.dat']);
    expect(await whole.isReadOnly(RECORD_PATH)).toBe(false);
  });

  it('is let go before the storefront follows another branch, which is undone like any edit', async () => {
    await goBackTo(ready);
    const sheet = await laidSheet();
    await run('hold', { sheet });
    await expect(run('switch-branch', { branch: 'steady' })).rejects.toMatchObject({ code: 'record/held' });
    await run('release', { sheet });
    const before = await imageOf(here());
    const set = await run('switch-branch', { branch: 'trial', code: 'deep-water' });
    expect(await readRecord(here())).toMatchObject({
      ...{ branch: 'trial', branchCode: 'deep-water', updates: 'by-itself' },
    });
    expect((await history.storeOfInstall(INSTALL))!.history[0]).toMatchObject({
      ...{ what: 'switch-branch', facts: { branch: 'trial', from: 'main' } },
    });
    await (
      await KINDS['switch-branch']()
    ).undo!(contextOf({ branch: 'trial' }, set));
    expect(await readRecord(here())).toMatchObject({ branch: 'main', branchCode: '' });
    expect(differences(await imageOf(here()), before)).toEqual([`history/${set}.dat`]);
    // Without a place for it in the rules there is nothing to switch.
    await updateGame(GAME, ({ rules, ...game }) => ({
      ...game,
      rules: { ...rules, record: { ...rules.record!, branch: undefined } },
    }));
    await expect(run('switch-branch', { branch: 'steady' })).rejects.toMatchObject({ code: 'record/not-as-ruled' });
    await updateGame(GAME, ({ rules, ...game }) => ({
      ...game,
      rules: { ...rules, record: { ...rules.record!, branch: 'branch' } },
    }));
  });

  it('of a record that is not as the rules say writes nothing, and says where', async () => {
    await goBackTo(ready);
    const sheet = await laidSheet();
    for (const [bytes, facts] of [
      [new TextEncoder().encode('{\n  "updates": }'), { line: 2 }],
      [
        Uint8Array.of(...new TextEncoder().encode('{"updates": "by-itself", "of": "'), 0xe4, 0x22, 0x7d),
        { what: 'is no UTF-8 text' },
      ],
      [new Uint8Array(PIECE_SIZE + 1).fill(32), { what: 'is larger than 1 MiB' }],
    ] as const) {
      await here().writeWhole(RECORD_PATH, bytes);
      const before = await imageOf(here());
      await expect(run('hold', { sheet })).rejects.toMatchObject({
        code: 'record/not-as-ruled',
        facts: { file: 'record.json', ...facts },
      });
      expect(differences(await imageOf(here()), before)).toEqual([]);
    }
    expect([await getHold(INSTALL), await here().isReadOnly(RECORD_PATH)]).toEqual([undefined, false]);
  });

  it('of a record in the game’s folder leaves it the player’s: no drift, and it comes along', async () => {
    disk.now = await folderFrom(ready.image);
    const { rules } = await getGame(GAME);
    await updateInstall(INSTALL, () => {
      const { record: _, ...install } = ready.install;
      return install;
    });
    const [file, text] = ['store/state.ini', '[Game]\nupdate = yes ; asked\n'];
    await updateGame(GAME, (game) => ({
      ...game,
      rules: { ...rules, record: { file, form: 'ini', at: 'game/update', stops: 'no', goes: 'yes ; asked' } },
    }));
    try {
      await here().writeWhole(treePath('t1', file), new TextEncoder().encode(text));
      await run('survey');
      const sheet = await laidSheet();
      await run('hold', { sheet });
      const now = await here().read(treePath('t1', file));
      expect(new TextDecoder().decode(now)).toBe('[Game]\nupdate = no\n');
      expect(await here().isReadOnly(treePath('t1', file))).toBe(true);
      const view = await stages.holdView(INSTALL);
      expect(view.departures.map(({ path }) => path)).not.toContain(file);
      expect((await stages.frame(INSTALL)).survey).toMatchObject({ fresh: true });
      await run('release', { sheet });
      expect(new TextDecoder().decode(await here().read(treePath('t1', file)))).toBe(text);
      const cancelled = contextOf({ sheet }, 'hold-in-game');
      await (await KINDS.hold()).run(cancelled);
      await (
        await KINDS.hold()
      ).undo!(cancelled);
      expect(new TextDecoder().decode(await here().read(treePath('t1', file)))).toBe(text);
      const known = (await getSurvey(await getInstall(INSTALL)))!;
      expect(known.keys[known.paths.indexOf(file)]).toBe(contentKey(text.length, [await platformSha256(text)]));
    } finally {
      await updateGame(GAME, (game) => ({ ...game, rules }));
    }
  });
});

describe('taking back', () => {
  it('a release brings its hold and sheet back, and taking the hold back ends it; made again, it holds', async () => {
    await goBackTo(ready);
    const sheet = await laidSheet();
    const held = await run('hold', { sheet });
    const released = await run('release', { sheet });
    expect(await getHold(INSTALL)).toBeUndefined();
    await run('take-back', { sets: [released], way: 'back' });
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    expect(await here().isReadOnly(RECORD_PATH)).toBe(true);
    await run('take-back', { sets: [held], way: 'back' });
    expect(await getHold(INSTALL)).toBeUndefined();
    expect(await here().isReadOnly(RECORD_PATH)).toBe(false);
    await run('take-back', { sets: [held], way: 'on' });
    expect((await getHold(INSTALL))!.sheet).toEqual(sheet);
    await run('take-back', { sets: [held], way: 'back' });
  });
});

describe('the storefront', () => {
  it('is stopped by a locked record before it has touched a file', async () => {
    disk.now = await folderFrom(ready.image);
    await here().setReadOnly(RECORD_PATH, true);
    await fetch('/stand-ins/panel/act', { method: 'POST', body: JSON.stringify({ do: 'release-patch' }) });
    const answer = await storefrontLooks(await readRecord(here()));
    expect(answer).toMatchObject({ action: 'update', build: '3.2.0' });
    const refused = await run('storefront-update', answer).catch((error: unknown) => error);
    expect(isFailure(refused, 'folder/read-only')).toBe(true);
    expect(differences(await imageOf(here()), ready.image)).toEqual([]);
  });
});
