import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { openDB } from 'idb';
import { beforeEach, describe, expect, it } from 'vitest';
import { asBuild, asMod } from '#core/builds';
import { contentKey } from '#core/digest';
import type { HoldSheet } from '#core/hold';
import { catalogueOf } from '../../core/testing/mods';
import { BackupSchema, backupText, putBackup } from './backup';
import { forgetBroughtOver, lastBroughtOver } from './changes';
import { closeDb, db } from './db';
import { addHoldCheck, addTrial, getHold, listTrials, putHold, removeTrial } from './holds';
import {
  addInstall,
  getInstall,
  getPastSurvey,
  getSurvey,
  listInstalls,
  pastSurveys,
  putSurvey,
  removeInstall,
  updateInstall,
} from './installs';
import { addLearned, listLearned, removeLearned } from './learned';
import { getJob, listJobs, pruneJobs, putJob } from './jobs';
import { MIGRATIONS } from './migrations';
import { addReading, dropReadings, readingsOf } from './readings';
import type { Install, JobRecord, StoredSurvey, StoredTrial } from './records';
import { addGame, getGame, removeGame, updateGame } from './games';
import { listShelved, noteShelved, putShelved, removeShelved } from './shelved';
import { getCatalogue, getIndex, getOffered, getSession, putTold } from './told';

const install: Install = {
  id: 'a',
  game: 'g',
  title: 'A',
  folder: 'A',
  place: { kind: 'browser-disk' },
  tree: 't1',
  profile: 'first',
  ownership: { language: 'x', addOns: [], optional: [] },
  weights: [],
  changedAt: 0,
  arrived: true,
};

const surveyAt = (at: number): StoredSurvey => ({
  ...{ install: 'a', tree: 't1', at, paths: ['p'], trusted: 0, unreadable: [] },
  sizes: Float64Array.of(2),
  modified: Float64Array.of(1),
  keys: [contentKey(2, ['x'])],
});

const NOTHING = { phase: '', files: 0, filesTotal: 0, bytes: 0, bytesTotal: 0 };

beforeEach(() => {
  closeDb();
  forgetBroughtOver();
  globalThis.indexedDB = new IDBFactory();
});

describe('a store that an older version wrote', () => {
  /** Until there were games, a service told of the only one. */
  const services = [
    {
      name: 'index',
      at: 7,
      value: {
        ...{ format: 'regressum-depot-index', version: 1, branches: [], depots: [], manifests: [] },
        builds: [{ label: '1.0', date: '2026-01-31' }],
        game: { id: 'g', title: 'G', rules: { own: [] } },
      },
    },
    { name: 'stamps', index: 7, catalogue: 1 },
    { name: 'session', at: 8, value: { token: 't', account: 'a', branches: [] } },
  ];

  /** Opens the store as the version did that had only so many migrations. */
  async function writtenBy(version: number, records: Readonly<Record<string, readonly unknown[]>>): Promise<void> {
    const old = await openDB('regressum', version, {
      upgrade(database, _from, _to, transaction) {
        // An empty store has nothing to bring over: what is waited for has happened by then.
        for (const migrate of MIGRATIONS.slice(0, version)) void migrate(database as never, transaction as never);
      },
    });
    for (const [name, some] of Object.entries(records)) for (const record of some) await old.put(name, record);
    old.close();
  }

  it('says where its installs lie, and when the files of its surveys were changed, as far as it knew', async () => {
    const { place: _, game: _g, ...placeless } = install;
    const { modified: _m, trusted: _t, ...survey } = surveyAt(1);
    await writtenBy(1, { installs: [placeless], surveys: [survey], services });
    expect(await listInstalls()).toEqual([install]);
    const read = (await getSurvey(install))!;
    expect([read.trusted, [...read.modified], read.paths]).toEqual([0, [NaN], ['p']]);
  });

  it('keeps its catalogue, in which releases had no reports', async () => {
    const release = { version: '1', builds: [], files: [] };
    const value = { mods: [{ id: 'm', releases: [release] }] };
    await writtenBy(3, { services: [...services, { name: 'catalogue', value, at: 1 }] });
    const { mods } = await getCatalogue('g');
    expect(mods[0]!.releases[0]).toEqual({ ...release, reports: [], optional: [] });
  });

  it('has its game as a record, with all that was known of it', async () => {
    const { game: _, ...gameless } = install;
    const own = { id: 'm', name: 'M', author: 'A', kind: 'data', releases: [], from: 'by hand', at: 1 };
    const learned = { id: 'l', label: '1', at: 1, from: { kind: 'log', name: 'x' }, paths: [], keys: [] };
    await writtenBy(5, { installs: [gameless], services, ownMods: [own], learned: [learned] });
    expect(await getInstall('a')).toEqual(install);
    expect(await getGame('g')).toMatchObject({ title: 'G', sources: [{ kind: 'service' }] });
    expect((await getIndex('g')).builds.map(({ label }) => label)).toEqual(['1.0']);
    expect(await getSession('g')).toMatchObject({ token: 't' });
    expect(await (await db()).get('gameMods', ['g', 'm' as never])).toMatchObject({ name: 'M' });
    expect((await listLearned('g')).map(({ id }) => id)).toEqual(['l']);
    expect([...(await db()).objectStoreNames]).not.toContain('services');
    // An install and its profile, a game, a mod, a build, and three that its service told.
    expect(lastBroughtOver()).toMatchObject({ from: 5, to: MIGRATIONS.length, records: 8 });
  });

  it('has what was decided about an install in a profile of it', async () => {
    const { profile: _, ...before } = install;
    const target = { build: '1.0' as never, releases: [], decidedBy: 'choice', at: 3 } as const;
    const decided = {
      weights: [['m' as never, 'must']],
      pins: [['m' as never, '1']],
      evidence: 'likely',
      target,
    } as const;
    await writtenBy(6, { installs: [{ ...before, ...decided }] });
    const now = { ...install, ...decided } as unknown as Install;
    expect(await getInstall('a')).toEqual(now);
    expect(await (await db()).get('installs', 'a')).not.toHaveProperty('weights');
    const profile = { install: 'a', id: 'first', title: 'First', ...decided };
    expect(await (await db()).getAll('profiles')).toEqual([profile]);
    // What is changed of the one or the other stays together, and what is taken away is gone.
    await updateInstall('a', ({ target: _t, ...rest }) => ({ ...rest, title: 'B', weights: [] }));
    const { target: _t, ...without } = now;
    expect(await listInstalls()).toEqual([{ ...without, title: 'B', weights: [] }]);
    await removeInstall('a');
    expect(await (await db()).getAll('profiles')).toEqual([]);
  });

  it('ends what cannot be gone on with', async () => {
    const job = {
      id: 'j',
      install: 'a',
      kind: 'assemble',
      params: {},
      state: 'running',
      startedAt: 5,
      progress: NOTHING,
    };
    await writtenBy(4, { installs: [install], jobs: [job, { ...job, id: 'k', kind: 'survey' }] });
    expect(await getJob('j')).toMatchObject({ state: 'cancelled', endedAt: 5 });
    expect(await getJob('k')).toMatchObject({ state: 'running' });
    expect([...(await db()).objectStoreNames]).not.toContain('journal');
  });
});

it('of the jobs that have ended only the latest are remembered', async () => {
  const job = (id: string, endedAt?: number): JobRecord => ({
    ...{ id, install: 'a', kind: 'survey', params: {}, startedAt: 0 },
    ...{ state: endedAt === undefined ? 'running' : 'done', progress: NOTHING },
    ...(endedAt !== undefined && { endedAt }),
  });
  for (let i = 0; i < 203; i++) await putJob(job(`j${i}`, i));
  await putJob(job('running'));
  await pruneJobs();
  const ids = (await listJobs()).map(({ id }) => id);
  expect(ids).toHaveLength(201);
  expect(ids).toContain('running');
  expect(ids).not.toContain('j2');
});

it('a store of a newer version is told as such, and left as it is', async () => {
  const newer = await openDB('regressum', MIGRATIONS.length + 1, {
    upgrade: (database) => void database.createObjectStore('of a later day'),
  });
  newer.close();
  await expect(listInstalls()).rejects.toMatchObject({ code: 'store/newer' });
  const again = await openDB('regressum');
  expect([...again.objectStoreNames]).toEqual(['of a later day']);
  again.close();
  // What was in the way is gone: nobody needs to load the page anew.
  globalThis.indexedDB = new IDBFactory();
  expect(await listInstalls()).toEqual([]);
});

it('a record that is damaged is named, stays as it is, and keeps nobody from the others', async () => {
  await addInstall(install);
  const damaged = { ...install, id: 'b', weights: [['m', 'perhaps']] };
  await (await db()).put('installs', damaged as never);
  expect(await listInstalls()).toEqual([install]);
  const facts = { what: 'folder', field: 'weights.0.1' };
  await expect(getInstall('b')).rejects.toMatchObject({ code: 'store/damaged', facts });
  await expect(updateInstall('b', (now) => now)).rejects.toMatchObject({ code: 'store/damaged' });
  expect(await (await db()).get('installs', 'b')).toEqual(damaged);
  const survey = { ...surveyAt(1), sizes: new Float64Array(2) };
  await putSurvey(survey);
  // What can be made anew counts as not there.
  expect(await getSurvey(install)).toBeUndefined();
});

describe('an install', () => {
  it('is added once, whoever comes first', async () => {
    await Promise.all([addInstall(install), addInstall({ ...install, title: 'other' })]);
    expect(await listInstalls()).toHaveLength(1);
    expect((await getInstall('a')).title).toBe('A');
  });

  it('loses no change when two are made at once', async () => {
    await addInstall(install);
    const grow = (now: Install): Install => ({ ...now, changedAt: now.changedAt + 1 });
    await Promise.all(Array.from({ length: 20 }, () => updateInstall('a', grow)));
    expect((await getInstall('a')).changedAt).toBe(20);
  });

  it('that is not there is a failure that names it', async () => {
    await expect(getInstall('b')).rejects.toMatchObject({ code: 'store/failed', facts: { id: 'b' } });
    await expect(updateInstall('b', (now) => now)).rejects.toMatchObject({ code: 'store/failed' });
  });

  it('has the survey of its present tree alone', async () => {
    await addInstall(install);
    await putSurvey(surveyAt(1));
    expect((await getSurvey(install))?.sizes).toEqual(Float64Array.of(2));
    expect(await getSurvey({ ...install, tree: 't2' })).toBeUndefined();
  });
});

it('a few surveys before the latest are kept, the newest first, and go with the install', async () => {
  await addInstall(install);
  for (let at = 1; at <= 8; at++) await putSurvey(surveyAt(at));
  expect(await pastSurveys('a')).toEqual([8, 7, 6, 5, 4, 3]);
  expect((await getPastSurvey('a', 5))?.at).toBe(5);
  expect(await getPastSurvey('a', 2)).toBeUndefined();
  await removeInstall('a');
  expect(await pastSurveys('a')).toEqual([]);
});

it('what a job has read is its own, and goes when it is done or its install is forgotten', async () => {
  await addInstall(install);
  const { paths, sizes, modified, keys } = surveyAt(1);
  await addReading('a', 'one', { at: 1, paths, sizes, modified, keys });
  await addReading('a', 'two', { at: 1, paths, sizes, modified, keys });
  expect(await readingsOf('one')).toMatchObject([{ install: 'a', paths: ['p'] }]);
  await dropReadings('one');
  expect(await readingsOf('one')).toEqual([]);
  expect(await readingsOf('two')).toHaveLength(1);
  await removeInstall('a');
  expect(await readingsOf('two')).toEqual([]);
});

it('records of builds stand side by side under one label, oldest first', async () => {
  const record = {
    label: '3.1',
    from: { kind: 'log', name: 'l' },
    paths: ['p'],
    keys: [contentKey(2, ['x'])],
  } as const;
  await addLearned('g', { ...record, id: 'later', at: 2 });
  await addLearned('g', { ...record, id: 'earlier', at: 1 });
  expect((await listLearned('g')).map(({ id }) => id)).toEqual(['earlier', 'later']);
  await removeLearned('earlier');
  expect((await listLearned('g')).map(({ id }) => id)).toEqual(['later']);
});

it('of an install’s starts of the game the latest are remembered', async () => {
  const trial = (install: string, at: number): StoredTrial => ({
    install,
    at,
    answer: { outcome: 'title', mods: [], log: [] },
  });
  await addTrial(trial('b', 0));
  for (let at = 0; at < 503; at++) await addTrial(trial('a', at));
  const trials = await listTrials('a');
  expect([trials.length, trials[0]!.at, trials.at(-1)!.at]).toEqual([500, 3, 502]);
  expect(await listTrials('b')).toHaveLength(1);
});

it('what was noted of several mods is taken back of one alone, and goes with the last of them', async () => {
  const mods = ['tow', 'fog'].map((mod) => ({ mod: asMod(mod), release: '1', ran: true }));
  await addTrial({ install: 'c', at: 1, answer: { told: true, outcome: 'title', mods, log: [] } });
  const left = async () => (await listTrials('c')).map(({ answer }) => answer.mods.map(({ mod }) => mod));
  await removeTrial('c', 1, asMod('tow'));
  expect(await left()).toEqual([['fog']]);
  await removeTrial('c', 1, asMod('fog'));
  expect(await left()).toEqual([]);
});

it('a hold keeps its latest checks, and a check without a hold is none', async () => {
  const check = { at: 1, drift: 0, setting: true, lock: true };
  await addHoldCheck('a', check);
  expect(await getHold('a')).toBeUndefined();
  const sheet: HoldSheet = {
    ...{ format: 'regressum-hold-sheet', version: 1, heldAt: new Date(0).toISOString(), build: asBuild('1') },
    ...{ game: { id: 'g', title: 'G' }, ownership: install.ownership, weights: {}, loadOrder: [], releases: [] },
    ...{ depots: [], treeDigest: 'a'.repeat(64), files: 0, bytes: 0, means: [] },
  };
  await putHold({ install: 'a', sheet, checks: [] });
  for (let at = 0; at < 402; at++) await addHoldCheck('a', { ...check, at });
  const { checks } = (await getHold('a'))!;
  expect([checks.length, checks[0]!.at, checks.at(-1)!.at]).toEqual([400, 2, 401]);
});

describe('a backup of the store', () => {
  const read = (): StoredSurvey => ({ ...surveyAt(3), keys: [contentKey(2, ['a'.repeat(64)])] });
  const learned = { id: 'l', label: '1.0', at: 1, from: { kind: 'folder', name: 'A' }, paths: [], keys: [] } as const;

  it('is taken over by another browser, but for folders that it has, and for what it cannot know', async () => {
    await addInstall(install);
    const picked = { kind: 'picked', handle: {} as FileSystemDirectoryHandle } as const;
    await addInstall({ ...install, id: 'b', place: picked });
    await putSurvey(read());
    await putSurvey({ ...read(), install: 'b', modified: Float64Array.of(NaN) });
    await addLearned('g', learned);
    const source = { kind: 'address', id: 's', of: 'builds', href: 'http://10.0.0.1/index.json' } as const;
    await addGame({ id: 'h', title: 'H', rules: { own: [] }, sources: [{ ...source, trust: 'typed' }] });
    const text = await backupText(5);

    closeDb();
    globalThis.indexedDB = new IDBFactory();
    await addInstall({ ...install, title: 'what is here' });
    await putBackup(BackupSchema.parse(JSON.parse(text)), new Set(['b']));
    expect((await getInstall('a')).title).toBe('what is here');
    expect(await getSurvey(install)).toBeUndefined();
    const b = await getInstall('b');
    expect(b.place).toEqual({ kind: 'handed' });
    expect(await getSurvey(b)).toMatchObject({
      paths: ['p'],
      sizes: Float64Array.of(2),
      modified: Float64Array.of(NaN),
    });
    expect(await listLearned('g')).toMatchObject([learned]);
    // Nobody typed its addresses here.
    expect((await getGame('h')).sources).toEqual([{ ...source, trust: 'told' }]);
    // Once more: nothing is taken over twice, or half.
    await expect(putBackup(BackupSchema.parse(JSON.parse(text)), new Set(['a', 'b']))).rejects.toThrow();
    expect((await getInstall('a')).title).toBe('what is here');
  });

  it.each<[string, (survey: object) => object]>([
    ['columns of unequal length', (survey: object) => ({ ...survey, paths: ['p', 'q'] })],
    ['a key that is none', (survey: object) => ({ ...survey, keys: ['x'] })],
    ['a path that is no text', (survey: object) => ({ ...survey, paths: [1] })],
  ])('with %s is refused', async (_, spoil) => {
    await addInstall(install);
    await putSurvey(read());
    const backup = JSON.parse(await backupText(5)) as { surveys: object[] };
    expect(BackupSchema.safeParse(backup).success).toBe(true);
    expect(BackupSchema.safeParse({ ...backup, surveys: backup.surveys.map(spoil) }).success).toBe(false);
  });
});

it('a release of the shelf is known when its catalogue has it no more, keeps a person’s words, and goes with its game', async () => {
  const source = { kind: 'handed', id: 's', of: 'mods', title: 's' } as const;
  await addGame({ id: 'shelved', title: 'S', rules: { own: [] }, sources: [source] });
  const of = (...versions: string[]) => catalogueOf({ tow: versions.map((version) => ({ version })) });
  await putTold('shelved', 's', { catalogue: { value: of('1', '2') } });
  const [tow] = of('1').mods;
  const one = { game: 'shelved', mod: tow!.id, version: '1', entry: tow!, from: 'tow.zip', at: 1 };
  await putShelved([one]);
  const before = await getCatalogue('shelved');
  expect(await getCatalogue('shelved')).toBe(before);
  await putTold('shelved', 's', { catalogue: { value: of('2') } });
  expect((await getCatalogue('shelved')).mods[0]!.releases.map(({ version }) => version)).toEqual(['2', '1']);
  expect((await getOffered('shelved')).mods[0]!.releases).toHaveLength(1);
  await noteShelved('shelved', tow!.id, '1', 'the good one');
  await putShelved([{ ...one, from: 'elsewhere' }]);
  expect(await listShelved('shelved')).toMatchObject([{ from: 'tow.zip', words: 'the good one' }]);
  await removeShelved('shelved', tow!.id, '1');
  expect((await getCatalogue('shelved')).mods[0]!.releases).toHaveLength(1);
  await putShelved([one]);
  await removeGame('shelved');
  expect(await listShelved('shelved')).toEqual([]);
});

describe('a game', () => {
  const index = (labels: readonly string[]) => ({
    ...{ format: 'regressum-depot-index' as const, version: 1 as const, branches: [], depots: [], manifests: [] },
    builds: labels.map((label) => ({ label: asBuild(label), date: '2026-01-31' })),
    game: { id: 'other', title: 'As the source calls it', rules: { own: [] } },
  });

  it('is told of by its sources in their order, under its own rules, and read anew only when one says something new', async () => {
    const rules = { modsFolder: 'mods', own: [] };
    const [first, second] = ['s1', 's2'].map((id) => ({
      kind: 'handed' as const,
      id,
      of: 'builds' as const,
      title: id,
    }));
    await addGame({ id: 'g', title: 'G', rules, sources: [first!, second!] });
    await expect(addGame({ id: 'g', title: 'Another', rules, sources: [] })).rejects.toThrow('source/exists');
    expect((await getIndex('g')).builds).toEqual([]);
    await putTold('g', 's2', { index: { value: index(['2', '3']) } });
    await putTold('g', 's1', { index: { value: index(['1', '2']) } });
    const read = await getIndex('g');
    expect(read.builds.map(({ label }) => label)).toEqual(['1', '2', '3']);
    expect(read.game).toEqual({ id: 'g', title: 'G', rules });
    expect(await getIndex('g')).toBe(read);
    await updateGame('g', (game) => ({ ...game, sources: [second!] }));
    expect((await getIndex('g')).builds.map(({ label }) => label)).toEqual(['2', '3']);
    await removeGame('g');
    await expect(getIndex('g')).rejects.toThrow('store/failed');
    expect(await (await db()).getAll('told')).toEqual([]);
  });
});
