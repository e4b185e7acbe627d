import 'fake-indexeddb/auto';
import { readdirSync, readFileSync } from 'node:fs';
import { IDBFactory } from 'fake-indexeddb';
import { openDB } from 'idb';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Db } from './db';
import { MIGRATIONS } from './migrations';

/* Databases that earlier versions of the program left: npm run keep-sample adds today's. */

const SAMPLES = readdirSync('tests/samples').map(Number);

interface Sample {
  readonly version: number;
  readonly stores: Readonly<
    Record<string, { readonly keyPath: unknown; readonly records: readonly [key: unknown, value: unknown][] }>
  >;
}

const COLUMNS = { Float64Array, Uint8Array, Uint32Array, Int32Array, Uint16Array };

/** What was written as JSON, as it was. */
function decode(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(decode);
  if (typeof value !== 'object' || value === null) return value;
  if ('$column' in value) {
    const { $column, base64 } = value as { $column: keyof typeof COLUMNS; base64: string };
    const bytes = Buffer.from(base64, 'base64');
    return new COLUMNS[$column](bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.length));
  }
  if ('$map' in value) return new Map((value.$map as [unknown, unknown][]).map((pair) => decode(pair) as never));
  return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, decode(one)]));
}

const read = (version: number): Sample =>
  JSON.parse(readFileSync(`tests/samples/${version}/database.json`, 'utf8')) as Sample;

/** Puts a sample down as the version did that left it, under another version's number where one is named. */
async function restore({ version, stores }: Sample, as = version): Promise<void> {
  const database = await openDB('regressum', as, {
    upgrade(fresh, _from, _to, transaction) {
      // An empty store has nothing to bring over: what is waited for has happened by then.
      for (const migrate of MIGRATIONS.slice(0, version)) void migrate(fresh as never, transaction as never);
    },
  });
  for (const [name, { keyPath, records }] of Object.entries(stores))
    for (const [key, value] of records)
      await (keyPath === null
        ? database.put(name, decode(value), key as IDBValidKey)
        : database.put(name, decode(value)));
  database.close();
}

const allOf = async (database: Pick<Db, 'objectStoreNames' | 'getAll'>): Promise<string> =>
  JSON.stringify(
    await Promise.all([...database.objectStoreNames].map(async (name) => [name, await database.getAll(name)])),
  );

beforeEach(() => {
  vi.resetModules();
  globalThis.indexedDB = new IDBFactory();
});
afterEach(() => vi.doUnmock('./migrations'));

describe.each(SAMPLES)('the store that version %i left', (version) => {
  it('is opened, and has all that a person decided', async () => {
    await restore(read(version));
    const store = await import('.');
    const [install] = await store.listInstalls();
    expect(install).toMatchObject({
      game: 'glass-orchard',
      place: { kind: 'served', root: '/games', folder: 'orchard' },
    });
    expect(install!.target).toMatchObject({ build: '1.0', decidedBy: 'choice' });
    expect((await store.getHold(install!.id))!.sheet).toMatchObject({ build: '1.0', game: { title: 'Glass Orchard' } });
    expect(await store.listProfiles(install!.id)).toMatchObject([{ id: 'first', title: 'First' }]);
    expect((await store.getGame('glass-orchard')).rules).toMatchObject({ program: 'orchard.prog' });
    expect((await store.getIndex('glass-orchard')).builds.map(({ label }) => label)).toEqual(['1.0', '2.0']);
    const survey = (await store.getSurvey(install!))!;
    expect(survey.paths).toContain('saves/one.sav');
    expect(survey.sizes).toHaveLength(survey.paths.length);
    const kinds = new Set((await store.listJobs()).map(({ kind, state }) => `${kind} ${state}`));
    for (const kind of ['survey', 'fetch', 'assemble', 'hold']) expect(kinds).toContain(`${kind} done`);
  });

  it('is as it was where bringing it over is cut off, and is brought over the next time', async () => {
    await restore(read(version));
    vi.doMock('./migrations', () => ({
      MIGRATIONS: [
        ...MIGRATIONS,
        async (_: unknown, transaction: { objectStore(name: string): { clear(): Promise<void> } }) => {
          await transaction.objectStore('installs').clear();
          throw new Error('the power went');
        },
      ],
    }));
    await expect((await import('.')).listInstalls()).rejects.toThrow();
    vi.doUnmock('./migrations');
    vi.resetModules();
    expect(await (await import('.')).listInstalls()).toHaveLength(1);
  });

  it('of a newer program is refused by name, and not touched', async () => {
    await restore(read(version), MIGRATIONS.length + 1);
    const open = () => openDB('regressum');
    const before = await allOf((await open()) as never);
    await expect((await import('.')).listInstalls()).rejects.toMatchObject({ code: 'store/newer' });
    const after = await open();
    expect([after.version, await allOf(after as never)]).toEqual([MIGRATIONS.length + 1, before]);
  });
});
