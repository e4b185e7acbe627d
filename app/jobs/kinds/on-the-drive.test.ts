import {
  here,
  INSTALL,
  GAME,
  contextOf,
  targetNow,
  planNow,
  noted,
  run,
  imageOf,
  differences,
  gameFile,
  type World,
  goBackTo,
  readyToLayDown,
} from '../testing/way';
import { beforeAll, describe, expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import { treePath } from '~/folders';
import { installContext } from '~/queries/install-context';
import * as choosing from '~/queries/choosing';
import { deleteKept, lookAtLoss } from '~/commands/turning';
import * as history from '~/queries/history';
import * as mending from '~/queries/mending';
import * as misplaced from '~/queries/misplaced';
import * as order from '~/queries/order';
import * as shelf from '~/queries/shelf';
import * as shelving from '~/queries/shelving';
import * as stages from '~/queries/stages';
import * as surveying from '~/queries/surveying';
import { platformSha256 } from '~/remote/sha256';
import { getInstall, updateInstall } from '~/store/installs';
import type { Install } from '~/store/records';
import { getGame } from '~/store/games';
import type { Until } from '#core/mend';
import { readModList, writeModList } from '#core/mod-list';
import { KINDS } from '.';

let ready: World;
beforeAll(async () => {
  ready = await readyToLayDown();
});

describe('what lies on the drive', () => {
  const MOD = asMod('night-sky');
  const REPLACED = 'textures/tx-050.tex';

  async function laidDown(): Promise<string> {
    await goBackTo(ready);
    await noted('assemble');
    await run('survey');
    return run('assemble', await targetNow());
  }

  it('a mod’s file stands over the game’s; without the mod the game’s is back from the store, nothing fetched', async () => {
    const set = await laidDown();
    const { overlaps: all } = (await stages.assemble(INSTALL))!;
    const overlaps = all.filter(({ owner }) => owner.kind === 'mod');
    const covers = [{ depot: 'core' }, { depot: 'fine-textures' }];
    expect(overlaps).toMatchObject([{ path: REPLACED, owner: { mod: MOD }, covers }]);
    const { target } = await getInstall(INSTALL);
    const replaced = await choosing.replaced(INSTALL, target!.build, target!.releases, MOD);
    expect(replaced).toMatchObject({ covers: [{ path: REPLACED }], coveredBy: [] });
    // Also once nothing can be taken back any more.
    await deleteKept(INSTALL, (await lookAtLoss(INSTALL, set))!, new Set());
    const without = { ...target!, releases: target!.releases.filter(([id]) => id !== MOD) };
    await updateInstall(INSTALL, (now) => ({ ...now, target: without }));
    const vanilla = (await installContext(INSTALL)).trees.get(without.build)!.find(({ path }) => path === REPLACED)!;
    const plan = await planNow();
    expect(plan.missing).toEqual([]);
    expect(plan.rows.find(({ path }) => path === REPLACED)).toMatchObject({
      key: vanilla.key,
      source: { how: 'stored' },
    });
    await run('assemble', { target: without, way: 'in-place' });
    const bytes = await here().read(await gameFile(REPLACED));
    expect(await platformSha256(bytes)).toBe(vanilla.sha256);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true });
    // The release that went is on the shelf, whole.
    const shelved = (await shelf.shelf(INSTALL)).releases.filter(({ mod }) => mod === MOD);
    expect(shelved).toMatchObject([{ inFolder: false, missing: 0 }]);
  });

  it('a mod’s step touches its files alone, is told by its releases, and is undone to the byte', async () => {
    await laidDown();
    const { target } = await getInstall(INSTALL);
    const { found } = await installContext(INSTALL);
    const path = await gameFile(found.find((file) => file.path.startsWith('config/'))!.path);
    await here().writeWhole(path, new TextEncoder().encode('drifted'));
    await run('survey');
    const before = await imageOf(here());
    const { target: step, paths, returns } = await mending.stepTarget(INSTALL, target!.build, [{ mod: MOD, to: null }]);
    expect(returns).toEqual([]);
    const set = await run('assemble', { target: step, way: 'in-place', only: paths });
    expect(new TextDecoder().decode(await here().read(path))).toBe('drifted');
    const release = target!.releases.find(([id]) => id === MOD)![1];
    const [done] = await mending.mended(INSTALL);
    expect(done).toMatchObject({ id: set, moves: [{ mod: MOD, from: release, to: undefined }], canGoBack: true });
    expect((await mending.mend(INSTALL, target!.build))!.here.has(MOD)).toBe(false);
    const back = await mending.stepTarget(INSTALL, target!.build, [{ mod: MOD, to: release }]);
    expect(back.returns).toEqual([MOD]);
    await run('take-back', { sets: [set], way: 'back' });
    expect(differences(await imageOf(here()), before, `trees/${(await getInstall(INSTALL)).tree}/`)).toEqual([]);
    expect((await mending.mended(INSTALL))[0]).toMatchObject({ id: set, isTakenBack: true, canGoBack: false });
  });

  it('an order that was decided here outlives a reading, one changed outside is taken over, and a sheet’s is neither', async () => {
    await laidDown();
    const path = await gameFile((await getGame(GAME)).rules.loadOrder!);
    const listed = readModList(new TextDecoder().decode(await here().read(path))).map(asMod);
    expect(listed.length).toBeGreaterThan(2);
    const moved = listed.toReversed();
    const decide = (change: Partial<Install>): Promise<unknown> =>
      updateInstall(INSTALL, (now) => ({ ...now, order: moved, target: { ...now.target!, order: moved }, ...change }));
    await decide({});
    await run('survey');
    expect(await getInstall(INSTALL)).toMatchObject({ order: moved, target: { order: moved } });
    const [first, second, ...rest] = listed;
    const outside = [second!, first!, ...rest];
    const write = async (mods: readonly string[]): Promise<void> => {
      await here().writeWhole(path, new TextEncoder().encode(writeModList(mods)));
      await run('survey');
    };
    await write(outside);
    expect(await getInstall(INSTALL)).toMatchObject({ order: outside, target: { order: outside } });
    const { target } = await getInstall(INSTALL);
    await decide({ target: { ...target!, order: moved, list: '', decidedBy: 'hold-sheet' } });
    await write(listed);
    expect(await getInstall(INSTALL)).toMatchObject({ order: listed, target: { order: moved } });
    // Emptied, it says nothing of the order, and what it had is written again.
    await write([]);
    expect((await getInstall(INSTALL)).order).toEqual(listed);
    expect(await order.order(INSTALL)).toMatchObject({ wasEmptied: true, isListed: false, order: listed });
  });

  it('a mod that lies one folder too deep is put where it belongs, and that is taken back', async () => {
    await laidDown();
    const before = await imageOf(here());
    const own = [...before.keys()].find((path) => path.includes(`/mods/${MOD}/`))!;
    const deep = own.replace(`/mods/${MOD}/`, `/mods/${MOD}-1.0/${MOD}/`);
    await here().move(own, deep);
    await run('survey');
    const [found] = await misplaced.misplaced(INSTALL);
    expect(found).toMatchObject({ mod: MOD });
    const below = treePath(`${(await getInstall(INSTALL)).tree}/`).length;
    expect(found!.moves).toEqual([[deep.slice(below), own.slice(below)]]);
    const set = await run('move-files', { name: found!.name, moves: found!.moves });
    expect(differences(await imageOf(here()), before, 'trees/')).toEqual([]);
    expect(await misplaced.misplaced(INSTALL)).toEqual([]);
    await expect(run('move-files', { name: 'x', moves: found!.moves })).rejects.toThrow('folder/not-found');
    await run('take-back', { sets: [set], way: 'back' });
    expect(await here().stat(deep)).toBeDefined();
  });

  it('a mod on the bench is in no choice until it is taken off, unless it only waits for a release that runs', async () => {
    await laidDown();
    const { build } = (await getInstall(INSTALL)).target!;
    const bench = async (until?: Until) => {
      const one = { mod: MOD, reason: 'crashes', at: 0, ...(until && { until }) };
      await updateInstall(INSTALL, (now) => ({ ...now, bench: [one] }));
      const view = (await mending.mend(INSTALL, build))!;
      return {
        item: view.items.find(({ mod }) => mod === MOD)!,
        due: view.bench[0]!.isDue,
        loss: view.choice.lost.get(MOD),
      };
    };
    expect(await bench()).toMatchObject({
      item: { action: 'bench', state: 'open' },
      due: false,
      loss: { why: 'benched' },
    });
    expect(await bench({ kind: 'build', build })).toMatchObject({ item: { action: 'bench' }, due: true });
    expect(await bench({ kind: 'runs' })).toMatchObject({ item: { action: 'keep' }, due: true, loss: undefined });
    // It is kept before it goes, from where it lies, and once.
    const [kept] = await shelving.shelvable(INSTALL, [MOD]);
    expect(kept!.keys.length).toBeGreaterThan(1);
    await run('shelve', { archives: [], releases: [kept], add: [] });
    expect(await shelving.shelvable(INSTALL, [MOD])).toMatchObject([{ mod: MOD, keys: [], from: [] }]);
    const onShelf = (await shelf.shelf(INSTALL)).releases.find(({ mod }) => mod === MOD)!;
    expect(onShelf).toMatchObject({ version: kept!.release, missing: 0, inFolder: true });
  });

  it('mods that nobody knows come along, with their settings, unless the person leaves them behind', async () => {
    await goBackTo(ready);
    await here().writeWhole(treePath('t1', 'mods/keel-noise/keel.cfg'), new TextEncoder().encode('loud = 1'));
    await here().writeWhole(treePath('t1', 'notes.txt'), new TextEncoder().encode('mine'));
    await run('survey');
    const paths = async () => {
      const { along, leftBehind } = (await stages.assemble(INSTALL))!;
      return [along.map(({ path }) => path), leftBehind.some(({ file }) => file.path === 'notes.txt')];
    };
    expect(await paths()).toEqual([['mods/keel-noise/keel.cfg'], true]);
    const said = [
      ['mods/keel-noise/keel.cfg', false],
      ['notes.txt', true],
    ] as const;
    await updateInstall(INSTALL, (now) => ({ ...now, along: said }));
    expect(await paths()).toEqual([['notes.txt'], false]);
    await run('assemble', await targetNow());
    expect(await here().stat(await gameFile('notes.txt'))).toBeDefined();
    expect(await here().stat(await gameFile('mods/keel-noise/keel.cfg'))).toBeUndefined();
    // What came along is no departure from what was laid down.
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true });
  });

  it('the load order is the person’s, as far as what mods need allows', async () => {
    await goBackTo(ready);
    const own = ['night-sky', 'wet-stone', 'chart-table', 'gunwale', 'nobody'];
    await here().writeWhole(treePath('t1', 'mods/load-order.txt'), new TextEncoder().encode(own.join('\r\n')));
    await run('survey');
    const { order } = await choosing.decide(INSTALL, ready.install.target!.build);
    const at = (id: string): number => order!.indexOf(asMod(id));
    expect([at('night-sky') < at('wet-stone'), at('gunwale') < at('chart-table'), at('nobody')]).toEqual([
      true,
      true,
      -1,
    ]);
  });

  it('a folder is cleaned up as one change, without the rows that are left alone, and all of it is taken back', async () => {
    await goBackTo(ready);
    const path = (await surveying.survey(INSTALL))!.table.paths.find((one) => one.startsWith('world/'))!;
    await here().move(treePath('t1', path), treePath('t1', 'world/elsewhere.bin'));
    await run('survey');
    const rows = await surveying.cleanUp(INSTALL);
    const does = (one: string) => rows.find((row) => row.path === one)?.does;
    expect([does(path), does('world/elsewhere.bin')]).toEqual(['moveBack', 'setAside']);
    const before = await imageOf(here());
    const stray = rows.find((row) => row.does === 'setAside' && row.path !== 'world/elsewhere.bin')!;
    const set = await run('clean', { leave: [stray.path] });
    expect((await surveying.cleanUp(INSTALL)).map((row) => row.path)).toEqual([stray.path]);
    expect(await here().stat(treePath('t1', path))).toBeDefined();
    await run('take-back', { sets: [set], way: 'back' });
    expect(differences(await imageOf(here()), before, 'trees/')).toEqual([]);
  });

  it('what others changed is noted once, what Regressum changed is not', async () => {
    await laidDown();
    const noted = async () =>
      (await history.storeOfInstall(INSTALL))!.history
        .filter(({ state }) => state === 'seen')
        .map(({ counts }) => counts);
    const already = (await noted()).length;
    await run('survey');
    expect(await noted()).toHaveLength(already);
    await here().writeWhole(await gameFile('tables/fuel.csv'), new TextEncoder().encode('altered'));
    await here().writeWhole(await gameFile('saves/new.fws'), new TextEncoder().encode('a save'));
    await run('survey');
    expect(await noted()).toHaveLength(already + 1);
    expect((await noted())[0]).toMatchObject({ replaced: 1, added: 0, removed: 0 });
    await run('survey');
    expect(await noted()).toHaveLength(already + 1);
  });

  it('a build is kept whole with its mods, offered once, and what of it lies nowhere is fetched', async () => {
    await laidDown();
    const { build } = ready.install.target!;
    const offer = (await history.keepOffer(INSTALL, build))!;
    expect(offer.files).toBeGreaterThan(300);
    const set = await run('keep-build', { build });
    expect(await history.keepOffer(INSTALL, build)).toBeUndefined();
    const [kept] = (await history.storeOfInstall(INSTALL))!.references.filter(({ reason }) => reason.kind === 'build');
    expect(kept).toMatchObject({ missing: 0 });
    // Completing what is kept already, and cancelling that, gives nothing up.
    await (
      await KINDS['keep-build']()
    ).undo!(contextOf({ build, isKept: true }, set));
    expect((await history.storeOfInstall(INSTALL))!.references).toContainEqual(kept);
    await (
      await KINDS['keep-build']()
    ).undo!(contextOf({ build }, set));
    expect((await history.storeOfInstall(INSTALL))!.references.some(({ id }) => id === kept!.id)).toBe(false);
    await updateInstall(INSTALL, (now) => ({ ...now, notKept: [build] }));
    expect(await history.keepOffer(INSTALL, build)).toBeUndefined();
    // Of the folder that was put aside all is there but a table that somebody had laid an old one over: it is fetched.
    const before = await history.keepPlan(INSTALL, asBuild('3.1.1'));
    expect(before.missing.map(({ path }) => path)).toEqual([expect.stringMatching(/^tables\//)]);
    await run('keep-build', { build: asBuild('3.1.1') });
    const { references } = (await history.storeOfInstall(INSTALL))!;
    expect(references.filter(({ reason }) => reason.kind === 'build')).toMatchObject([
      { reason: { kind: 'build', build: '3.1.1' }, missing: 0 },
    ]);
  });
});
