import {
  disk,
  here,
  INSTALL,
  readRecord,
  contextOf,
  targetNow,
  planNow,
  noted,
  outcomes,
  run,
  imageOf,
  POWER_WENT,
  failingAfter,
  differences,
  type World,
  goBackTo,
  readyToLayDown,
} from '../testing/way';
import { text } from '~/places';
import { beforeAll, describe, expect, it } from 'vitest';
import { asBuild } from '#core/builds';
import { Failure } from '#core/failure';
import { listJournals, readJournal } from '#core/changes';
import { contentName, contentPath } from '#core/contents';
import { contentKey } from '#core/digest';
import { installDisk } from '~/folders';
import { treePath } from '~/folders';
import { deleteKept, lookAtLoss } from '~/commands/turning';
import * as history from '~/queries/history';
import * as stages from '~/queries/stages';
import { platformSha256 } from '~/remote/sha256';
import { getInstall, updateInstall } from '~/store/installs';
import type { Target } from '~/store/records';
import { KINDS } from '.';

/** Files of the target whose bytes are to be had from a source alone. */
const toCome = (view: Awaited<ReturnType<typeof stages.fetchView>>): string[] =>
  view!.items.flatMap(({ path, source }) => (source.how === 'fetch' ? [path] : []));

let ready: World;
beforeAll(async () => {
  ready = await readyToLayDown();
});

describe('assemble', () => {
  async function again(): Promise<void> {
    await goBackTo(ready);
    await noted('assemble');
  }

  async function againPicked(): Promise<void> {
    await again();
    await updateInstall(INSTALL, ({ toldTimes: _, ...now }) => now);
    await run('survey');
    // A handle is no more than a name here.
    const place = { kind: 'picked', handle: {} as FileSystemDirectoryHandle } as const;
    await updateInstall(INSTALL, (now) => ({ ...now, place }));
  }

  async function expectLaidDown(): Promise<void> {
    const { build } = ready.install.target!;
    const install = await getInstall(INSTALL);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, likeliest: build, onDisk: [build] });
    expect((await readRecord(here())).build).toBe(build);
    const after = await imageOf(here());
    expect(differences(after, ready.image, treePath('t1/'))).toEqual([]);
    // The job center would have noted that a job has worked on the folder.
    await noted('assemble');
    // Of what was fetched nothing stays but what a mod replaces; what the keepsake has was not fetched.
    const covered = (await stages.plan(INSTALL, ready.install.target!)).covered.size;
    expect(covered).toBeGreaterThan(0);
    const { references } = (await history.storeOfInstall(INSTALL))!;
    const own = references.filter(({ reason }) => ['keepsake', 'release'].includes(reason.kind));
    const kept = own.reduce((sum, { files }) => sum + files, covered);
    expect([...after.keys()].filter((path) => path.startsWith('contents/'))).toHaveLength(kept);
    // Saves and settings are the player's: they come along as they are.
    const saves = [...ready.image.keys()].filter((path) => path.startsWith(treePath('t1/saves/')));
    expect(saves.length).toBeGreaterThan(0);
    const moved = new Map(saves.map((path) => [path, after.get(path.replace('/t1/', `/${install.tree}/`))!]));
    expect(differences(moved, ready.image, treePath('t1/saves/'))).toEqual([]);
  }

  it.each<[string, (files: number) => number]>([
    ['before the plan is written down', () => 0],
    ['before the first file', () => 1],
    ['in the middle', (files) => files >> 1],
    ['when all is written and the record is to be changed', (files) => files + 7],
    ['before the swap', (files) => files + 8],
  ])('goes on to the same end when the power goes %s, whatever is wanted meanwhile', async (when, changes) => {
    await again();
    const whole = here();
    const params = await targetNow();
    disk.now = failingAfter(changes((await planNow()).rows.length), whole);
    const id = `cut-${when.replaceAll(' ', '-')}`;
    await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow('folder/failed');
    disk.now = whole;
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).toEqual([]);
    // Another target, with other mods: what goes on is what was decided.
    const other: Target = { ...params.target, build: asBuild('2.6.0'), releases: [] };
    await updateInstall(INSTALL, (now) => ({ ...now, target: other }));
    await (await KINDS.assemble()).run(contextOf(params, id));
    await updateInstall(INSTALL, (now) => ({ ...now, target: params.target }));
    await expectLaidDown();
    // Once more finds nothing left to do.
    await (await KINDS.assemble()).run(contextOf(params, id));
    await expectLaidDown();
  });

  it('waits for a save that is being written, and goes on without it only where the person says so', async () => {
    await again();
    const whole = here();
    const save = 'saves/voyage-1.fws';
    await whole.writeWhole(treePath('t1', save), new Uint8Array(9));
    /** The game holds the save for so many looks at it. */
    const heldFor = (looks: number): void => {
      disk.now = {
        ...whole,
        async open(path: string) {
          if (path === treePath('t1', save) && looks-- > 0) throw new Failure('folder/no-permission', { path });
          return whole.open(path);
        },
      };
    };
    heldFor(Infinity);
    const before = await imageOf(whole);
    const params = await targetNow();
    await expect(run('assemble', params)).rejects.toMatchObject({
      ...{ code: 'keepsake/partial', facts: { path: save, files: 1 } },
    });
    expect([...differences(await imageOf(whole), before)].filter((path) => path.startsWith(treePath('t1')))).toEqual(
      [],
    );
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    // A keepsake that was asked for has everything else, and says what it is without.
    expect(outcomes.get(await run('keepsake'))).toEqual({ unread: [save] });
    heldFor(2);
    expect(outcomes.get(await run('keepsake'))).toBeUndefined();
    heldFor(Infinity);
    await run('assemble', { ...params, way: 'in-place', inPart: true });
    disk.now = whole;
    await run('survey');
    expect((await stages.frame(INSTALL)).likeliest).toBe(params.target.build);
    expect(await whole.read(treePath('t1', save))).toEqual(new Uint8Array(9));
    // As it was for who comes next.
    await again();
    await run('survey');
  });

  it('swaps nothing where a byte of what it was made of has changed since the survey', async () => {
    await again();
    const whole = here();
    const victim = (await planNow()).rows.find(({ source, size }) => source.how === 'keep' && size > 0)!;
    const path = treePath('t1', victim.path);
    const right = await whole.read(path);
    await whole.writeWhole(
      path,
      right.map((byte, i) => (i === 0 ? byte ^ 1 : byte)),
    );
    const id = 'gone-bad';
    const params = await targetNow();
    // It is planned anew on what was found: its bytes lie nowhere now, and are to be fetched.
    await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toMatchObject({
      ...{ code: 'folder/not-found', facts: { path: victim.path } },
    });
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    expect(await listJournals({ disk: installDisk(INSTALL, 't1'), ...text })).toEqual([]);
    expect(toCome(await stages.fetchView(INSTALL))).toEqual([victim.path]);
    await whole.writeWhole(path, right);
    await run('survey');
    await (await KINDS.assemble()).run(contextOf(params, id));
    await expectLaidDown();
  });

  it('in place, replaces nothing that was changed since the survey without a word', async () => {
    await again();
    const lying = new Set((await here().list(treePath('t1'))).map(({ path }) => path));
    const replaced = (await planNow()).rows.filter(({ source }) => source.how === 'stored');
    const path = replaced.map((row) => treePath('t1', row.path)).find((one) => lying.has(one))!;
    const right = await here().read(path);
    const edited = right.map((byte, i) => (i === 0 ? byte ^ 1 : byte));
    await here().writeWhole(path, edited);
    const params = { ...(await targetNow()), way: 'in-place' };
    await expect((await KINDS.assemble()).run(contextOf(params, 'edited'))).rejects.toMatchObject({
      ...{ code: 'folder/changed-meanwhile', facts: { path } },
    });
    expect(await here().read(path)).toEqual(edited);
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, 'edited'));
    expect(await here().read(path)).toEqual(edited);
    await here().writeWhole(path, right);
    await run('survey');
  });

  it('has a content fetched again that has gone bad in the store, whatever its size and time', async () => {
    await again();
    const [first] = (await planNow()).rows.flatMap((row) => (row.source.how === 'stored' ? [row] : []));
    const path = contentPath(await contentName(first!.key, platformSha256));
    const right = await here().read(path);
    await here().writeWhole(
      path,
      right.map((byte, i) => (i === 0 ? byte ^ 1 : byte)),
    );
    expect(toCome(await stages.fetchView(INSTALL))).toEqual([]);
    await expect(run('assemble', await targetNow())).rejects.toMatchObject({ code: 'folder/not-found' });
    expect(await here().stat(path)).toBeUndefined();
    expect(toCome(await stages.fetchView(INSTALL))).toEqual([first!.path]);
    await run('fetch', await targetNow());
    await run('assemble', await targetNow());
    await expectLaidDown();
  });

  it('leaves nothing of itself when it is cancelled', async () => {
    await again();
    const whole = here();
    const id = 'cancelled';
    const params = await targetNow();
    disk.now = failingAfter((await planNow()).rows.length >> 1, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow();
    disk.now = whole;
    expect((await whole.list()).length).toBeGreaterThan(ready.image.size);
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, id));
    expect(differences(await imageOf(whole), ready.image)).toEqual([`history/${id}.dat`]);
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    expect(await listJournals({ disk: installDisk(INSTALL, 't1') })).toEqual([]);
  });

  it('is taken back, made again, and let go, and what is said of the folder follows', async () => {
    await again();
    const set = await run('assemble', await targetNow());
    await run('take-back', { sets: [set], way: 'back' });
    expect((await getInstall(INSTALL)).tree).toBe('t1');
    // What it had laid down lies there still, and need not be fetched again.
    expect((await planNow()).missing).toEqual([]);
    expect((await readRecord(here())).build).toBe('3.1.1');
    expect((await stages.frame(INSTALL)).likeliest).toBe('3.1.1');
    await run('take-back', { sets: [set], way: 'on' });
    await expectLaidDown();
    const loss = (await lookAtLoss(INSTALL, set))!;
    // The player's own lie in the folder that counts too, or in a keepsake.
    expect(loss.lost).toEqual([]);
    await deleteKept(INSTALL, loss, new Set());
    expect((await here().list(treePath('t1'))).length).toBe(0);
    const left = (await here().list()).map(({ path }) => path).filter((path) => /^(staged|kept|journal)/.test(path));
    expect(left).toEqual([]);
  });

  const WITHDRAWN = new Failure('folder/no-permission', { path: 'a' });
  const FULL = new Failure('folder/full', { path: 'a' });
  it.each<[changes: number | undefined, why: Failure]>([
    ...[0, 40, 200, undefined].map((changes) => [changes, POWER_WENT] as [number | undefined, Failure]),
    [130, FULL],
    // When all is got ready, and in the middle of putting it in place.
    [170, WITHDRAWN],
    [300, WITHDRAWN],
  ])(
    'in a picked folder touches only what differs, and is taken back, when after %s changes it ends with %s',
    async (changes, why) => {
      await againPicked();
      const whole = here();
      const params = await targetNow();
      const id = `in-place-${changes}-${why.code.slice(7)}`;
      const rows = (await planNow()).rows.filter(({ source }) => source.how === 'keep');
      const times = new Map<string, number>();
      for (const { path } of rows) times.set(path, (await whole.stat(treePath('t1', path)))!.modified);
      if (changes !== undefined) {
        disk.now = failingAfter(changes, whole, why);
        await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toMatchObject({ code: why.code });
        disk.now = whole;
      }
      await (await KINDS.assemble()).run(contextOf(params, id));
      const { build } = params.target;
      expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, likeliest: build, survey: { fresh: true } });
      for (const [path, time] of times) expect((await whole.stat(treePath('t1', path)))!.modified).toBe(time);
      expect((await readRecord(here())).build).toBe(build);

      await run('take-back', { sets: [id], way: 'back' });
      expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).toEqual([]);
      expect(await stages.frame(INSTALL)).toMatchObject({ likeliest: '3.1.1', survey: { fresh: true } });
      await run('let-go', { set: id });
      const left = (await whole.list()).filter(({ path }) => /^(staged|kept|journal)/.test(path));
      expect(left).toEqual([]);
    },
  );

  it('also on a disk where folders can be swapped, and one altered file is one that is written', async () => {
    await again();
    await run('survey');
    await run('assemble', { ...(await targetNow()), way: 'in-place' });
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
    expect(await getInstall(INSTALL)).toMatchObject({ tree: 't1' });
    const whole = here();
    const [path] = (await whole.list(treePath('t1'))).map((file) => file.path).filter((one) => one.includes('sounds/'));
    const right = await whole.read(path!);
    const name = await contentName(contentKey(right.length, [await platformSha256(right)]), platformSha256);
    await whole.copy(path!, contentPath(name));
    await whole.writeWhole(path!, new Uint8Array(right.length));
    await updateInstall(INSTALL, (now) => ({ ...now, changedAt: Date.now() }));
    await run('survey');
    const written: string[] = [];
    disk.now = { ...whole, copy: async (from: string, to: string) => (written.push(to), whole.copy(from, to)) };
    await run('assemble', { ...(await targetNow()), way: 'in-place' }).finally(() => (disk.now = whole));
    expect(written).toHaveLength(1);
    expect(await whole.read(path!)).toEqual(right);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
  });

  it('in parts, keeps nothing that a source lists, and goes on from a cut within any of them', async () => {
    await againPicked();
    const whole = here();
    const waived = (await planNow()).waivable;
    expect(waived.length).toBeGreaterThan(0);
    const listed = new Set(waived.map(({ found }) => found));
    const params = { ...(await targetNow()), way: 'in-parts', partBytes: 1 << 20 };
    const id = 'parts';
    for (const changes of [30, 90, 200]) {
      disk.now = failingAfter(changes, whole);
      await expect((await KINDS.assemble()).run(contextOf(params, id))).rejects.toThrow('folder/failed');
    }
    disk.now = whole;
    await (await KINDS.assemble()).run(contextOf(params, id));
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
    expect((await readRecord(here())).build).toBe(params.target.build);
    await noted('assemble');
    // What mods cover has been kept first.
    expect((await stages.frame(INSTALL)).toFetch).toEqual({ files: 0, bytes: 0, nowhere: 0 });
    const { history: changes } = (await history.storeOfInstall(INSTALL))!;
    const parts = changes.filter(({ facts }) => facts.part !== undefined);
    expect(parts.length).toBeGreaterThan(2);
    expect(parts.every(({ state, keeps }) => state === 'let-go' && keeps.files === 0)).toBe(true);
    const laid = changes.filter(({ what }) => what === 'lay-down');
    expect(new Set(laid.map(({ facts }) => facts['from']))).toEqual(new Set(['3.1.1']));
    // The last part keeps what nobody else has.
    const kept = (await listJournals({ disk: installDisk(INSTALL, 't1') })).filter((set) => set === id);
    expect(kept).toEqual([id]);
    const steps = (await readJournal({ disk: installDisk(INSTALL, 't1'), sha256: platformSha256, ...text }, id))!.set
      .steps;
    const displaced = steps.flatMap((step) =>
      step.do === 'place' ? [step.before] : step.do === 'take' ? [step.key] : [],
    );
    const needed = new Set((await planNow()).rows.map(({ key }) => key));
    expect(displaced.filter((key) => listed.has(key) && !needed.has(key!))).toEqual([]);
  });

  it('in parts, when it is cancelled within one, takes that one back and says what the folder is', async () => {
    await againPicked();
    const whole = here();
    const params = { ...(await targetNow()), way: 'in-parts', partBytes: 1 << 20 };
    disk.now = failingAfter(100, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, 'parts'))).rejects.toThrow('folder/failed');
    disk.now = whole;
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, 'parts'));
    await noted('assemble');
    expect(await listJournals({ disk: installDisk(INSTALL, 't1') })).toEqual([]);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: false, survey: { fresh: true } });
    // From there it is laid down like from anywhere.
    await run('assemble', params);
    expect(await stages.frame(INSTALL)).toMatchObject({ laid: true, survey: { fresh: true } });
  });

  it('cancelled in place, leaves the folder as it was', async () => {
    await againPicked();
    const whole = here();
    const params = await targetNow();
    const differing = (await planNow()).rows.filter(({ source }) => source.how !== 'keep').length;
    disk.now = failingAfter(differing + 60, whole);
    await expect((await KINDS.assemble()).run(contextOf(params, 'half-way'))).rejects.toThrow();
    disk.now = whole;
    expect(differences(await imageOf(whole), ready.image, treePath('t1/'))).not.toEqual([]);
    await (
      await KINDS.assemble()
    ).undo!(contextOf(params, 'half-way'));
    expect(differences(await imageOf(whole), ready.image)).toContain('history/half-way.dat');
    expect(differences(await imageOf(whole), ready.image, 'trees/')).toEqual([]);
    expect(await stages.frame(INSTALL)).toMatchObject({ likeliest: '3.1.1', survey: { fresh: true } });
  });
});
