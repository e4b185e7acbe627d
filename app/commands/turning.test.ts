import {
  GAME,
  goBackTo,
  here,
  INSTALL,
  NO_PROGRESS,
  noted,
  readyToLayDown,
  readRecord,
  RECORD_PATH,
  run,
  started,
  targetNow,
  worldNow,
  type World,
} from '../jobs/testing/way';
import { beforeAll, beforeEach, describe, expect, it } from 'vitest';
import { treePath } from '~/folders';
import { keepsakes, keepsakeView } from '~/queries/keepsakes';
import { frame } from '~/queries/stages';
import { storeOfInstall } from '~/queries/history';
import { getGame } from '~/store/games';
import { getInstall } from '~/store/installs';
import { getJob, putJob } from '~/store/jobs';
import { deleteAllKept, deleteKept, isPlain, lookAhead, lookAtLoss, turnChanges } from './turning';

/* Turning changes after a player has played, and others have written: nothing of theirs is lost, and there is always a way on. */

const bytes = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);
const said = async (path: string): Promise<string> => new TextDecoder().decode(await here().read(path));
const inGame = async (path: string): Promise<string> => treePath((await getInstall(INSTALL)).tree, path);

const FAILED = {
  ...({
    install: INSTALL,
    kind: 'take-back',
    state: 'failed',
    progress: NO_PROGRESS,
    startedAt: 0,
    endedAt: 0,
  } as const),
  failure: { code: 'folder/changed-meanwhile', facts: { path: 'a' } } as const,
};

let ready: World;
let laid: World;
let set: string;
/** A save by the game's rules. */
let save: string;

beforeAll(async () => {
  ready = await readyToLayDown();
  const { own } = (await getGame(GAME)).rules;
  const saves = own.find(({ kind }) => kind === 'saves')!.folder;
  const [first] = await here().list(await inGame(saves));
  save = first!.path.slice(treePath('t1').length + 1);
  set = await run('assemble', await targetNow());
  laid = await worldNow();
});
beforeEach(async () => {
  await goBackTo(laid);
  await noted('assemble');
  await run('survey');
  started.length = 0;
});

describe('a lay-down that is taken back after it was played on', () => {
  const PICTURE = 'notes/first light.png';

  it('names a picture that was made meanwhile, and brings it along', async () => {
    await here().writeWhole(await inGame(PICTURE), bytes('a picture'));
    const ahead = await lookAhead(INSTALL, [set], 'back');
    expect(ahead.partings.map(({ path }) => path)).toContain(PICTURE);
    await turnChanges(INSTALL, ahead, new Set(), [PICTURE]);
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    expect(await said(await inGame(PICTURE))).toBe('a picture');
  });

  it('left behind, it is named before what the change keeps is deleted, and kept where the player wants it', async () => {
    await here().writeWhole(await inGame(PICTURE), bytes('another picture'));
    await turnChanges(INSTALL, await lookAhead(INSTALL, [set], 'back'));
    const change = (await storeOfInstall(INSTALL))!.history.find(({ id }) => id === set)!;
    expect(change.aside!.others).toBeGreaterThan(0);
    // Nobody who was not asked deletes it.
    await expect(run('let-go', { set })).rejects.toMatchObject({ code: 'changes/not-named' });
    const loss = (await lookAtLoss(INSTALL, set))!;
    expect(loss.lost.map(({ path }) => path)).toEqual([PICTURE]);
    // What was asked for of the source it has just now.
    expect(loss.again.files).toBeGreaterThan(0);
    expect(loss.again.there).toBe(loss.again.asked);
    await deleteKept(INSTALL, loss, new Set(loss.lost.map(({ at }) => at)));
    const kept = await keepsakes(INSTALL);
    const newest = kept.keepsakes[0]!;
    expect(newest).toMatchObject({ why: 'change', what: 'let-go', files: 1 });
    expect((await storeOfInstall(INSTALL))!.history.find(({ id }) => id === set)!.state).toBe('undone');
  });

  it('says what is gone from the folder that comes back, or was changed in it, by whose hand ever', async () => {
    expect((await lookAhead(INSTALL, [set], 'back')).spoiled).toBeUndefined();
    const [first, second] = (await here().list(treePath('t1', 'textures'))).map(({ path }) => path);
    await here().writeWhole(first!, bytes('by hand'));
    await here().remove(second!);
    const ahead = await lookAhead(INSTALL, [set], 'back');
    expect(ahead.spoiled).toEqual({
      gone: [second!.slice(treePath('t1').length + 1)],
      changed: [first!.slice(treePath('t1').length + 1)],
    });
    expect(isPlain(ahead)).toBe(false);
    // An emptied one leads back all the same, and from there on.
    await here().remove(treePath('t1'));
    const emptied = await lookAhead(INSTALL, [set], 'back');
    expect(emptied.spoiled!.gone.length).toBeGreaterThan(300);
    await turnChanges(INSTALL, emptied);
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    await turnChanges(INSTALL, await lookAhead(INSTALL, [set], 'on'));
    await run('survey');
    expect((await frame(INSTALL)).laid).toBe(true);
  });

  it('is made again with what was played since, and says so', async () => {
    await turnChanges(INSTALL, await lookAhead(INSTALL, [set], 'back'));
    await here().writeWhole(await inGame(save), bytes('played on'));
    const ahead = await lookAhead(INSTALL, [set], 'on');
    expect(ahead.partings).toMatchObject([{ path: save, kind: 'saves' }]);
    await turnChanges(INSTALL, ahead, new Set(), [save]);
    expect((await getInstall(INSTALL)).tree).not.toBe('t1');
    expect(await said(await inGame(save))).toBe('played on');
    expect((await frame(INSTALL)).laid).toBe(true);
  });

  it('is not said to be done where another browser has deleted it meanwhile, and ends what had failed over it', async () => {
    await putJob({ ...FAILED, id: 'failed', params: { sets: [set], way: 'back' } });
    await turnChanges(INSTALL, await lookAhead(INSTALL, [set], 'back'));
    expect(await getJob('failed')).toMatchObject({ state: 'cancelled' });
    const loss = (await lookAtLoss(INSTALL, set))!;
    await deleteAllKept(INSTALL, [set]);
    expect(loss.named.length).toBeGreaterThan(0);
    await expect(run('take-back', { sets: [set], way: 'on' })).rejects.toMatchObject({ code: 'changes/unknown' });
  });

  it('comes upon nothing that a person has to know where nobody did anything', async () => {
    expect(isPlain(await lookAhead(INSTALL, [set], 'back'))).toBe(true);
  });
});

it('what nothing refers to is named before it is deleted, but for what lies elsewhere, and kept where the player wants it', async () => {
  const old = treePath('forgotten');
  await here().writeWhole(`${old}/diary.txt`, bytes('a diary'));
  await here().copy(await inGame(save), `${old}/${save}`);
  const loss = (await lookAtLoss(INSTALL))!;
  expect(loss.lost).toMatchObject([{ path: 'diary.txt', at: `${old}/diary.txt` }]);
  expect(loss.named.map(([path]) => path).toSorted()).toEqual([`${old}/diary.txt`, `${old}/${save}`].toSorted());
  // One that came when it was looked at already keeps everything where it is.
  await here().writeWhole(`${old}/new.txt`, bytes('new'));
  await expect(run('let-go', { named: loss.named })).rejects.toMatchObject({ code: 'changes/not-named' });
  await deleteKept(INSTALL, (await lookAtLoss(INSTALL))!, new Set([`${old}/diary.txt`]));
  expect(await here().list(old)).toEqual([]);
  const [newest] = (await keepsakes(INSTALL)).keepsakes;
  expect((await keepsakeView(INSTALL, newest!.id)).keepsake.files.map(({ path }) => path)).toEqual(['diary.txt']);
});

describe('the storefront’s record', () => {
  it('takes the value back that was set, in the record as the storefront has written it since', async () => {
    await goBackTo(ready);
    await noted('assemble');
    const before = await readRecord(here());
    const branch = before.branch === 'main' ? 'harbour' : 'main';
    const switched = await run('switch-branch', { branch });
    const now = { ...(await readRecord(here())), branch, lastUpdated: '2026-12-01T00:00:00Z' };
    await here().writeWhole(RECORD_PATH, bytes(JSON.stringify(now, null, 1)));
    const ahead = await lookAhead(INSTALL, [switched], 'back');
    // It is set back by itself: nothing is asked.
    expect(ahead.met).toEqual([]);
    await turnChanges(INSTALL, ahead);
    const after = JSON.parse(await said(RECORD_PATH)) as Record<string, unknown>;
    expect(after).toEqual({ ...now, branch: before.branch, ...('updates' in now && { updates: before.updates }) });
    await turnChanges(INSTALL, await lookAhead(INSTALL, [switched], 'on'));
    expect(JSON.parse(await said(RECORD_PATH))).toMatchObject({ branch, lastUpdated: now.lastUpdated });
  });
});
