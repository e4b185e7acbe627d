import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, describe, expect, it } from 'vitest';
import type { JournalChange } from '#core/assemble';
import { asBuild } from '#core/builds';
import { contentKey } from '#core/digest';
import type { HoldSheet } from '#core/hold';
import { closeDb, db } from './db';
import { addHoldCheck, getHold, putHold } from './holds';
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
import { intend, journalled, journalOf, latestJournal, markJournal } from './journal';
import { addLearned, listLearned, removeLearned } from './learned';
import { MIGRATIONS } from './migrations';
import { addReading, dropReadings, readingsOf } from './readings';
import type { Install, StoredSurvey } from './records';

const install: Install = {
  id: 'a',
  title: 'A',
  folder: 'A',
  place: { kind: 'browser-disk' },
  tree: 't1',
  nextTree: 1,
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

beforeEach(() => {
  closeDb();
  globalThis.indexedDB = new IDBFactory();
});

it('each migration brings a store of its version to the newest, with what is in it', async () => {
  const opened = await db();
  expect(opened.version).toBe(MIGRATIONS.length);
  await addInstall(install);
  closeDb();
  expect(await listInstalls()).toEqual([install]);
});

describe('an install', () => {
  it('is added once, whoever comes first', async () => {
    await Promise.all([addInstall(install), addInstall({ ...install, title: 'other' })]);
    expect(await listInstalls()).toHaveLength(1);
    expect((await getInstall('a')).title).toBe('A');
  });

  it('loses no change when two are made at once', async () => {
    await addInstall(install);
    const grow = (now: Install): Install => ({ ...now, nextTree: now.nextTree + 1 });
    await Promise.all(Array.from({ length: 20 }, () => updateInstall('a', grow)));
    expect((await getInstall('a')).nextTree).toBe(21);
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
  await addLearned({ ...record, id: 'later', at: 2 });
  await addLearned({ ...record, id: 'earlier', at: 1 });
  expect((await listLearned()).map(({ id }) => id)).toEqual(['earlier', 'later']);
  await removeLearned('earlier');
  expect((await listLearned()).map(({ id }) => id)).toEqual(['later']);
});

describe('the journal', () => {
  const write = (path: string): JournalChange => ({ kind: 'write-files', tree: 't2', paths: [path] });

  it('has the change before it is made, and the mark after', async () => {
    await journalled('a', 'job', write('1'), async () => {
      expect(await journalOf('job')).toMatchObject([{ state: 'intended' }]);
    });
    expect(await journalOf('job')).toMatchObject([{ state: 'done', change: { paths: ['1'] } }]);
  });

  it('keeps what was cut off as intended', async () => {
    const cut = journalled('a', 'job', write('1'), () => Promise.reject(new Error('power')));
    await expect(cut).rejects.toThrow('power');
    expect(await journalOf('job')).toMatchObject([{ state: 'intended' }]);
  });

  it('is read by job in order, and by install from its end', async () => {
    const first = await intend('a', 'one', write('1'));
    await intend('b', 'two', write('2'));
    await intend('a', 'one', write('3'));
    await markJournal(first, 'undone');
    expect((await journalOf('one')).map(({ state }) => state)).toEqual(['undone', 'intended']);
    expect(await latestJournal('a', 1)).toMatchObject([{ change: { paths: ['3'] } }]);
    expect(await latestJournal('a', 9)).toHaveLength(2);
  });
});

it('a hold keeps its latest checks, and a check without a hold is none', async () => {
  const check = { at: 1, drift: 0, setting: true, lock: true };
  await addHoldCheck('a', check);
  expect(await getHold('a')).toBeUndefined();
  await putHold({ install: 'a', sheet: { build: asBuild('1') } as HoldSheet, checks: [] });
  for (let at = 0; at < 402; at++) await addHoldCheck('a', { ...check, at });
  const { checks } = (await getHold('a'))!;
  expect([checks.length, checks[0]!.at, checks.at(-1)!.at]).toEqual([400, 2, 401]);
});
