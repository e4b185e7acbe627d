import 'fake-indexeddb/auto';
import { IDBFactory } from 'fake-indexeddb';
import { beforeEach, expect, it, vi } from 'vitest';
import { installLock } from '~/jobs';
import { addInstall, type Install, listInstalls } from '~/store';
import { closeDb } from '~/store/db';
import { forgetInstall } from './bring-in';

const dropped = vi.hoisted(() => [] as string[]);
vi.mock('~/folders', () => ({ dropDisk: async (install: string) => void dropped.push(install) }));
vi.mock('~/changes', () => ({
  forgetContents: async ({ id }: Install) => void dropped.push(`fetched for ${id}`),
}));
vi.mock('~/queries', () => ({ query: async () => undefined }));
vi.mock('~/jobs', () => ({ installLock: (install: string) => `lock of ${install}`, jobs: {} }));

const install: Install = {
  ...{
    id: 'a',
    title: 'A',
    folder: 'A',
    place: { kind: 'browser-disk' },
    game: 'g',
    tree: 't1',
    profile: 'first',
    weights: [],
  },
  ...{ ownership: { language: 'x', addOns: [], optional: [] }, changedAt: 0, arrived: true },
};

const taken = new Set<string>();
beforeEach(async () => {
  closeDb();
  vi.stubGlobal('indexedDB', new IDBFactory());
  const request = (name: string, _: unknown, work: (lock: unknown) => unknown) =>
    work(taken.has(name) ? null : { name });
  vi.stubGlobal('navigator', { locks: { request } });
  taken.clear();
  dropped.length = 0;
  await addInstall(install);
});

it('an install that a job works on is not forgotten, nor are its files removed', async () => {
  taken.add(installLock('a'));
  await expect(forgetInstall('a', true)).rejects.toMatchObject({ code: 'job/busy' });
  expect([await listInstalls(), dropped]).toEqual([[install], []]);
  taken.clear();
  await forgetInstall('a', true);
  expect([await listInstalls(), dropped]).toEqual([[], ['fetched for a', 'a']]);
});

it('what was fetched for a folder elsewhere goes with it, and nothing else', async () => {
  await addInstall({ ...install, id: 'b', place: { kind: 'served', root: '/games', folder: 'b' } });
  await forgetInstall('b', false);
  expect(dropped).toEqual(['fetched for b']);
});
