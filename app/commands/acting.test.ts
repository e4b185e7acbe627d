import './testing/told';
import {
  GAME,
  gameFile,
  goBackTo,
  here,
  INSTALL,
  laidSheet,
  noted,
  readRecord,
  readyToLayDown,
  run,
  started,
  targetNow,
  type World,
  worldNow,
} from '../jobs/testing/way';
import { beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import { Failure } from '#core/failure';
import { writeChecksumList } from '#core/lists';
import { treePath } from '~/folders';
import { installContext } from '~/queries/install-context';
import { mend, mended } from '~/queries/mending';
import { startAnswer } from '~/queries/reading';
import { frame, holdView } from '~/queries/stages';
import { text } from '~/places';
import { platformSha256 } from '~/remote/sha256';
import { getGame, updateGame } from '~/store/games';
import { addHoldCheck, getHold } from '~/store/holds';
import { getInstall, getSurvey, listInstalls, updateInstall } from '~/store/installs';
import { bringInOffer, forgetInstall } from './bring-in';
import { lookForDrift, takeDriftOver, takeNothingOver } from './drift';
import { holdInstall, importHoldSheet, letHoldGo, switchToBranch } from './hold';
import { layDownAll, takeOut, takeSteps, undoSteps } from './mending';
import { beginNarrowing, putAllBack, switchForStart } from './narrowing';

/* What a person has done to a folder, from the press of a button to what lies there. */

const SKY = asMod('night-sky');
const DECISION = {
  ...{
    at: '2026-01-01T00:00:00Z',
    evidence: 'stated',
    wanted: 1,
    running: 1,
    provenBest: true,
    rolledBack: [],
    lost: [],
  },
};
let laid: World;

beforeAll(async () => {
  await readyToLayDown();
  await run('assemble', await targetNow());
  await run('survey');
  laid = await worldNow();
});
beforeEach(async () => {
  await goBackTo(laid);
  await noted('assemble');
  // What lies there was written anew.
  await run('survey');
  started.length = 0;
});

const filesOf = async (mod: string): Promise<number> =>
  (await here().list(treePath((await getInstall(INSTALL)).tree, `mods/${mod}`))).length;
const kinds = (): string[] => started.map(({ kind }) => kind);

describe('steps', () => {
  const BUILD = asBuild('2.9.4');

  it('lay down one mod’s files alone, and are undone to the byte, or by themselves once something came after', async () => {
    const before = await filesOf(SKY);
    expect(before).toBeGreaterThan(0);
    await takeOut(INSTALL, { build: BUILD, mod: SKY, isThere: true }, { reason: 'dark', until: undefined });
    expect(kinds()).toEqual(['shelve', 'fetch']);
    expect(await filesOf(SKY)).toBe(0);
    expect((await getInstall(INSTALL)).bench).toMatchObject([{ mod: SKY, reason: 'dark' }]);
    const undo = (await mended(INSTALL))[0]!;
    expect(undo).toMatchObject({ canGoBack: true, moves: [{ mod: SKY }] });
    await undoSteps(INSTALL, BUILD, undo);
    expect(await filesOf(SKY)).toBe(before);
    expect((await getInstall(INSTALL)).target!.releases.map(([mod]) => mod)).toContain(SKY);

    await takeSteps(INSTALL, BUILD, [{ mod: SKY, to: null }]);
    const again = (await mended(INSTALL))[0]!;
    await undoSteps(INSTALL, BUILD, { ...again, canGoBack: false });
    expect(await filesOf(SKY)).toBe(before);
    // Mods that come back are on the bench no longer.
    expect((await getInstall(INSTALL)).bench).toEqual([]);
  });

  it('all of them at once, fetch what is missing and lay it down', async () => {
    const view = (await mend(INSTALL, asBuild('3.1.1')))!;
    await layDownAll(INSTALL, view);
    expect(started[0]).toMatchObject({ kind: 'fetch', params: { thenLayDown: true } });
    const { target } = await getInstall(INSTALL);
    expect(target).toMatchObject({ build: '3.1.1', decidedBy: 'mend', from: view.from });
    expect(new Map(target!.releases)).toEqual(new Map(view.releases));
    expect(await frame(INSTALL)).toMatchObject({ laid: true, likeliest: '3.1.1' });
  });

  it('of a search switch mods off and on, and put all back but the culprit', async () => {
    const release = new Map((await getInstall(INSTALL)).target!.releases).get(SKY)!;
    const view = { build: BUILD, mods: [{ mod: SKY, release, weight: 1 }] };
    await expect(switchForStart(INSTALL, [])).rejects.toThrow();
    await beginNarrowing(INSTALL, view as never, { kind: 'crash' });
    await switchForStart(INSTALL, []);
    expect(await filesOf(SKY)).toBe(0);
    await switchForStart(INSTALL, [SKY]);
    expect(await filesOf(SKY)).toBeGreaterThan(0);
    await putAllBack(INSTALL, [SKY]);
    expect(await filesOf(SKY)).toBe(0);
    const { bench, narrowing } = await getInstall(INSTALL);
    expect(bench).toMatchObject([{ mod: SKY, reason: 'Breaks the game', until: { kind: 'release' } }]);
    expect(narrowing).toBeUndefined();
  });
});

describe('a hold', () => {
  it('is what the sheet says that was drafted, and ends as if it had not been', async () => {
    await letHoldGo(INSTALL);
    expect(started).toEqual([]);
    await holdInstall(INSTALL);
    expect((await getHold(INSTALL))!.sheet).toMatchObject({ build: '2.9.4', game: { id: GAME } });
    expect((await readRecord(here())).updates).toBe('when-asked');
    await letHoldGo(INSTALL);
    expect([await getHold(INSTALL), (await readRecord(here())).updates]).toEqual([undefined, 'by-itself']);
    await switchToBranch(INSTALL, 'steady', undefined);
    expect(await readRecord(here())).toMatchObject({ branch: 'steady' });
    expect(started.at(-1)).toEqual({ kind: 'switch-branch', params: { branch: 'steady' } });
  });

  it('of what is not known to be what is wanted is not begun', async () => {
    await updateInstall(INSTALL, ({ target: _, ...now }) => now);
    await expect(holdInstall(INSTALL)).rejects.toMatchObject({ code: 'job/not-checked-out' });
    expect(started).toEqual([]);
  });

  it('that is imported is the target, as the sheet says it; one false claim changes nothing', async () => {
    const sheet = { ...(await laidSheet()), weights: { [SKY]: 'spare' }, decision: DECISION };
    const bytes = (one: object): Uint8Array => new TextEncoder().encode(JSON.stringify(one));
    const before = await getInstall(INSTALL);
    const outcome = await importHoldSheet(INSTALL, bytes({ ...sheet, files: sheet.files + 1 }), 'x.json');
    expect(outcome).toMatchObject({ refused: [{}] });
    expect(await getInstall(INSTALL)).toEqual(before);
    expect(await importHoldSheet(INSTALL, bytes(sheet), 'x.json')).toMatchObject({ taken: { build: '2.9.4' } });
    const { target, weights } = await getInstall(INSTALL);
    expect(weights).toEqual([[SKY, 'spare']]);
    expect(target).toMatchObject({
      ...{ build: '2.9.4', decidedBy: 'hold-sheet', sheetDigest: sheet.treeDigest, decision: DECISION },
      ...{ order: sheet.loadOrder, releases: sheet.releases.map(({ mod, release }) => [mod, release]) },
    });
  });

  it('is looked at for drift: what changed is read, what was taken over is none until it changes again', async () => {
    await holdInstall(INSTALL);
    started.length = 0;
    expect(await lookForDrift(INSTALL)).toBe(false);
    expect(started).toEqual([]);
    const table = await gameFile('tables/vessels.csv');
    await here().writeWhole(table, new TextEncoder().encode('changed by hand'));
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect(started).toEqual([{ kind: 'survey', params: { checkHold: true, trustEarlier: true } }]);
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 1 });
    await takeDriftOver(INSTALL);
    expect((await holdView(INSTALL)).departures).toEqual([]);
    expect(new Map((await getHold(INSTALL))!.accepted).get('tables/vessels.csv' as never)).toBeDefined();
    await takeNothingOver(INSTALL);
    expect((await holdView(INSTALL)).departures.map(({ path }) => path)).toEqual(['tables/vessels.csv']);
    // As many files, and another one: it is read as well, however soon.
    await here().writeWhole(await gameFile('tables/harbours.csv'), text.encode('changed by hand as well'));
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({ drift: 2 });
    await run('survey', { checkHold: true });
    expect((await holdView(INSTALL)).departures).toHaveLength(2);
    // The same file once more a moment later is not read at once, and nothing counts as known of it meanwhile.
    const tide = new Uint8Array([1]);
    await here().writeWhole(await gameFile('notes/new.txt'), tide);
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect((await frame(INSTALL)).survey!.fresh).toBe(true);
    await here().writeWhole(await gameFile('notes/new.txt'), new Uint8Array([1, 2]));
    started.length = 0;
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect(started).toEqual([]);
    expect((await frame(INSTALL)).survey!.fresh).toBe(false);
    await here().remove(await gameFile('notes/new.txt'));
    await run('survey', { checkHold: true });
    // That its setting was changed is noticed by a glance, and written down; a glance that finds the same is not.
    await run('survey', { checkHold: true });
    const checks = async (): Promise<number> => (await getHold(INSTALL))!.checks.length;
    const count = await checks();
    expect(await lookForDrift(INSTALL)).toBe(false);
    expect(await checks()).toBe(count);
    const record = await readRecord(here());
    await here().setReadOnly('quayline/record.json', false);
    await here().writeWhole('quayline/record.json', text.encode(JSON.stringify({ ...record, updates: 'by-itself' })));
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect((await getHold(INSTALL))!.checks.at(-1)).toMatchObject({
      glance: true,
      setting: false,
      lock: false,
      drift: 2,
    });
    await addHoldCheck(INSTALL, { at: Date.now() - 7 * 3_600_000, drift: 2, setting: false, lock: false });
    const old = await checks();
    await lookForDrift(INSTALL);
    expect(await checks()).toBe(old + 1);
    await letHoldGo(INSTALL);
  });

  it('without one, a change makes what is known old, once', async () => {
    expect(await lookForDrift(INSTALL)).toBe(false);
    const { changedAt } = await getInstall(INSTALL);
    await here().writeWhole(await gameFile('tables/vessels.csv'), new TextEncoder().encode('changed'));
    expect(await lookForDrift(INSTALL)).toBe(true);
    const after = (await getInstall(INSTALL)).changedAt;
    expect(after).toBeGreaterThan(changedAt);
    expect(await lookForDrift(INSTALL)).toBe(true);
    expect((await getInstall(INSTALL)).changedAt).toBe(after);
    expect(started).toEqual([]);
  });
});

it('a log is older than what somebody else has laid into the folder since, and not than what the game writes', async () => {
  const { rules, ...rest } = await getGame(GAME);
  await updateGame(GAME, () => ({ ...rest, rules: { ...rules, log: { file: 'start.log', up: 'ready' } } }));
  await run('survey');
  await updateInstall(INSTALL, (now) => ({ ...now, changedAt: 0 }));
  const survey = (await getSurvey(await getInstall(INSTALL)))!;
  const known = new Set((await installContext(INSTALL)).trees.get(asBuild('3.1.1'))!.map(({ path }) => path));
  const times = survey.paths.flatMap((path, i) => (known.has(path) ? [survey.modified[i]!] : []));
  const newest = Math.max(...times);
  const answer = (file: number) => startAnswer(INSTALL, 'ready', 'start.log', file);
  await expect(answer(newest - 5000)).rejects.toMatchObject({ code: 'log/too-old' });
  expect(await answer(newest)).toMatchObject({ at: newest, answer: { outcome: 'title' } });
  // What the game has written into a file of its build is no file of that build any more.
  await here().writeWhole(await gameFile('tables/vessels.csv'), text.encode('written by the game'));
  await run('survey');
  await updateInstall(INSTALL, (now) => ({ ...now, changedAt: 0 }));
  expect(await answer(newest)).toMatchObject({ at: newest });
  await updateGame(GAME, () => ({ ...rest, rules }));
});

describe('a folder', () => {
  const others = async (): Promise<string[]> =>
    (await listInstalls()).map(({ id }) => id).filter((id) => id !== INSTALL);
  const NEW = { game: GAME, title: 'Second', folder: 'second', weights: [] } as const;
  const ownership = () => getInstall(INSTALL).then((install) => install.ownership);

  it('comes in as a list, which is its check; one that is no list brings in nothing', async () => {
    const { paths } = (await getSurvey(await getInstall(INSTALL)))!;
    const files = await Promise.all(
      paths.slice(0, 12).map(async (path) => ({
        path,
        digest: await platformSha256(await here().read(await gameFile(path))),
      })),
    );
    const list = writeChecksumList({ kind: 'sha-256', files }, { form: 'gnu' });
    const offer = (bytes: string) => ({ kind: 'list', name: 'sums', bytes: text.encode(bytes) }) as const;
    const folder = { ...NEW, ownership: await ownership() };
    await expect(bringInOffer(offer('no list at all'), folder)).rejects.toBeInstanceOf(Failure);
    expect(await others()).toEqual([]);
    const id = await bringInOffer(offer(list), folder);
    const install = await getInstall(id);
    expect(install).toMatchObject({ ...NEW, place: { kind: 'list', file: 'sums' }, tree: 't1', arrived: true });
    expect((await getSurvey(install))!.paths).toEqual(files.map(({ path }) => path));
    vi.stubGlobal('navigator', {
      locks: { request: (_: string, __: object, work: (lock: unknown) => unknown) => work({}) },
    });
    await forgetInstall(id, false).finally(() => vi.unstubAllGlobals());
    expect(await others()).toEqual([]);
  });

  it('that a job works on is not forgotten', async () => {
    vi.stubGlobal('navigator', {
      locks: { request: (_: string, __: object, work: (lock: unknown) => unknown) => work(null) },
    });
    const refused = forgetInstall(INSTALL, false).finally(() => vi.unstubAllGlobals());
    await expect(refused).rejects.toMatchObject({ code: 'job/busy' });
    expect(await getInstall(INSTALL)).toBeDefined();
  });
});
