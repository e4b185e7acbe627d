import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Page } from '@playwright/test';
import { choose, open } from './demo-way';
import { digestsOf } from './demo-tree';
import { expect } from './expect';
import { addOwnFolder, put, serve } from './own-game';
import { SERVED_ROOT, SERVED_TOKEN } from './served-root';
import { test } from './start-at';

/*
 * npm run keep-sample: what the program stores today, kept in tests/samples under the number of its database's version. A small game goes
 * back by the interface, with mods and a profile of its own, and is held; the browser's database and the folder with its store are copied.
 * Samples are kept for good: every later version has to open them.
 */

const GAME = {
  ...{ format: 'regressum-game', version: 1, id: 'glass-orchard', title: 'Glass Orchard' },
  rules: {
    ...{ program: 'orchard.prog', modsFolder: 'grafts', loadOrder: 'grafts/list.txt' },
    own: [{ folder: 'saves', kind: 'saves' }],
    record: { file: 'state.ini', form: 'ini', at: 'game/updates', stops: 'never', goes: 'always' },
  },
  sources: [],
};

/** Everything that the database has, in a form that JSON can hold: columns by their kind and bytes, pairs of maps in a list. */
const databaseOf = (page: Page): Promise<{ version: number; stores: object }> =>
  page.evaluate(async () => {
    const answer = <T>(request: IDBRequest<T>): Promise<T> =>
      new Promise((resolve, reject) => {
        request.onsuccess = () => resolve(request.result);
        request.onerror = () => reject(request.error);
      });
    const encode = (value: unknown): unknown => {
      if (ArrayBuffer.isView(value)) {
        const bytes = new Uint8Array(value.buffer, value.byteOffset, value.byteLength);
        return { $column: value.constructor.name, base64: btoa(String.fromCharCode(...bytes)) };
      }
      if (value instanceof Map) return { $map: [...value].map(encode) };
      if (Array.isArray(value)) return value.map(encode);
      if (typeof value !== 'object' || value === null) return value;
      return Object.fromEntries(Object.entries(value).map(([name, one]) => [name, encode(one)]));
    };
    const database = await answer(indexedDB.open('regressum'));
    const stores: Record<string, unknown> = {};
    for (const name of database.objectStoreNames) {
      const store = database.transaction(name).objectStore(name);
      const [keys, values] = [await answer(store.getAllKeys()), await answer(store.getAll())];
      stores[name] = { keyPath: store.keyPath, records: values.map((value, i) => [keys[i], encode(value)]) };
    }
    return { version: database.version, stores };
  });

test('what the program stores today is kept as a sample', async ({ folderAt, startAt }, info) => {
  const work = info.outputPath('work');
  const [folder, source] = [folderAt(), join(work, 'source')];
  put(join(work, 'game.json'), JSON.stringify(GAME));
  for (const build of [1, 2]) {
    const depot = join(work, `depot-${build}`);
    put(join(depot, 'orchard.prog'), `program ${build}`);
    for (let i = 0; i < 6; i++) put(join(depot, `data/tree-${i}.csv`), `id,fruit\n${i},${i % 2 === 0 ? build : 0}\n`);
    put(join(depot, `only-${build}.txt`), 'of one build');
    execFileSync(process.execPath, [
      ...['scripts/make-source.mjs', '--game', join(work, 'game.json'), '--label', `${build}.0`, '--on', 'stable'],
      ...['--date', `2026-0${build}-15`, '--from', `orchard=${depot}`, '--with-files', '--to', source],
    ]);
  }
  const { address, server } = await serve(source, true);
  cpSync(join(work, 'depot-2'), folder, { recursive: true });
  put(join(folder, 'saves/one.sav'), 'a save');
  put(join(folder, 'grafts/pear.graft'), 'a mod that nobody knows');
  put(join(folder, 'state.ini'), '[game]\nupdates=always\n');
  const before = digestsOf(folder);

  const page = await startAt('new');
  await page.goto(`/games#token=${SERVED_TOKEN}`);
  const file = { name: 'game.json', mimeType: 'application/json', buffer: readFileSync(join(work, 'game.json')) };
  await page.getByLabel('File of a game').setInputFiles(file);
  await page.getByLabel('Address').fill(address);
  await page.getByRole('button', { name: 'Add this address' }).click();
  await expect(page.getByText('2 builds, 1 depot known.')).toBeVisible();
  await addOwnFolder(page, info.testId, '2.0');
  await choose(page, '1.0');
  await open(page, 'Fetch');
  await page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ }).click();
  await expect(page.getByText(/Everything for 1\.0 .* is on this disk/)).toBeVisible();
  await open(page, 'Assemble');
  await page.getByRole('radiogroup').getByText('Beside').click();
  await page.getByRole('button', { name: /^Lay down 1\.0 beside/ }).click();
  await expect(page.getByText('in place, byte for byte')).toBeVisible();
  const laid = digestsOf(folder);
  await open(page, 'Hold');
  await page.getByRole('button', { name: /^Hold 1\.0/ }).click();
  await expect(page.getByText('Nothing has drifted.')).toBeVisible();
  const held = digestsOf(folder);

  const { version, stores } = await databaseOf(page);
  const sample = join('tests/samples', String(version));
  rmSync(sample, { recursive: true, force: true });
  mkdirSync(sample, { recursive: true });
  const write = (name: string, value: unknown): void =>
    writeFileSync(
      join(sample, name),
      // Where this machine had the folder is nobody's business.
      `${JSON.stringify(value, null, 1).replaceAll(SERVED_ROOT, '/games').replaceAll(info.testId, 'orchard')}\n`,
    );
  write('database.json', { version, stores });
  // Git keeps no such flag.
  const readOnly = execFileSync('find', ['.', '-type', 'f', '!', '-perm', '-u+w'], { cwd: folder, encoding: 'utf8' });
  write('expected.json', { before, laid, held, readOnly: readOnly.split('\n').filter(Boolean) });
  execFileSync('cp', ['-a', folder, join(sample, 'folder')]);
  server.close();
});
