import { execFileSync } from 'node:child_process';
import { chmodSync, existsSync, mkdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { type Page } from '@playwright/test';
import { BlobReader, ZipReader } from '@zip.js/zip.js';
import { choose, dropFile, open } from './demo-way';
import { expect } from './expect';
import { fileSays, makeOwnSource, OWN_GAME, put, sameFile, serve, writeDepot, writeOwnFolder } from './own-game';
import { SERVED_TOKEN } from './served-root';
import { test } from './start-at';

/** A storefront's record of several games. */
const STATE = (updates: string): string =>
  `<?xml version="1.0"?>\r\n<shelf>\r\n  <other updates="always"/>\r\n  <game updates='${updates}' size="1"/>\r\n</shelf>\r\n`;

/** What a program meets that writes the record as a user for whom flags hold: nothing, or the code of its failure. */
function storefrontWrites(path: string): string {
  const script = `try { require('fs').appendFileSync(process.argv[1], '') } catch (e) { process.stdout.write(e.code) }`;
  const isRoot = process.getuid?.() === 0;
  return execFileSync(process.execPath, ['-e', script, path], { ...(isRoot && { uid: 65534 }), encoding: 'utf8' });
}

/** Adds the game by its form, and its source by address. */
async function addGame(page: Page, address: string): Promise<void> {
  await page.goto(`/games#token=${SERVED_TOKEN}`);
  await page.getByLabel('Title').fill(OWN_GAME.title);
  await page.getByText(/^Where it keeps saves/).click();
  await page.getByLabel('Program').fill('orchard.prog');
  await page.getByLabel('Folder with mods').fill('grafts');
  await page.getByLabel('Saves').fill('profile\\**\\*.sav');
  await page.getByText(/^Layout of mods, versions/).click();
  await page.getByLabel('Loader’s switch').fill('set.ini');
  await page.getByLabel('Where the switch stands').fill('mods/load');
  await page.getByLabel('Value with which mods are loaded').fill('1');
  await page.getByLabel('Log of a start').fill('last.log');
  await page.getByLabel('Line when the game has come up').fill('menu ready');
  await page.getByLabel('Line with its version').fill('(');
  await page.getByLabel('Storefront’s record').fill('state.xml');
  await page.getByRole('combobox', { name: 'How it is written' }).click();
  await page.getByRole('option', { name: 'XML' }).click();
  await page.getByLabel('Where the value stands').fill('shelf/game/@updates');
  await page.getByLabel('Value that stops updates').fill('never');
  await page.getByLabel('Value that lets them come').fill('always');
  await page.getByRole('button', { name: 'Add this game' }).click();
  await expect(page.getByText(/^It is no pattern/)).toBeVisible();
  await page.getByLabel('Line with its version').fill('^Orchard (.*)$');
  await page.getByRole('button', { name: 'Add this game' }).click();
  await page.getByLabel('Address').fill(address);
  await page.getByRole('button', { name: 'Add this address' }).click();
  await expect(page.getByText('2 builds, 3 depots known.')).toBeVisible();
  await expect(page.getByRole('region', { name: 'Sources' })).toHaveCount(1);
}

/** Saves in and outside the game's folder are kept, put back over others, and that is taken back. */
async function keepAndPutBack(page: Page, folder: string, id: string): Promise<void> {
  // Saves outside the game's folder come into the keepsake once they are pointed at.
  put(join(`${folder} shelf`, 'saves/two.sav'), 'a second save');
  await page.getByRole('link', { name: 'Open Keepsakes' }).click();
  await page.getByText('Add a folder outside the game’s').click();
  await page.getByLabel('Subfolder').fill(`${id} shelf/saves`);
  await page.getByRole('button', { name: 'Keep saves too' }).click();
  await page.getByRole('button', { name: 'Keep 2 files as they are now' }).click();
  const bag = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Download as an archive' }).click();
  const zip = new ZipReader(new BlobReader(new Blob([readFileSync(await (await bag).path())])));
  const packed = (await zip.getEntries()).map(({ filename }) => filename.replace(/^[^/]*\//, ''));
  const outside = packed.find((path) => path.endsWith('/two.sav'))!;
  expect(outside).toMatch(/^data\/elsewhere\/own[a-z]+\/two\.sav$/);
  expect(packed).toContain('data/profile/saves/one.sav');

  // A save is lost and another one written over: both come back where they were, and that is taken back.
  writeFileSync(join(`${folder} shelf`, 'saves/two.sav'), 'written over');
  rmSync(join(folder, 'profile/saves/one.sav'));
  await page.reload();
  await expect(page.getByRole('region', { name: 'Kept files' })).toContainText('gone now');
  await page.getByRole('button', { name: 'Put 2 files back' }).click();
  await fileSays(join(`${folder} shelf`, 'saves/two.sav'), 'a second save');
  expect(existsSync(join(folder, 'profile/saves/one.sav'))).toBe(true);
  await page.getByRole('banner').getByRole('link', { name: 'History', exact: true }).click();
  await page.getByRole('button', { name: 'Take it back' }).click();
  await fileSays(join(`${folder} shelf`, 'saves/two.sav'), 'written over');
  await page.getByRole('link', { name: 'Keepsakes', exact: true }).click();
  await page.getByRole('link', { name: /Kept by hand/ }).click();
  await page.getByRole('button', { name: 'Put 2 files back' }).click();
  await fileSays(join(`${folder} shelf`, 'saves/two.sav'), 'a second save');

  // Copies in the browser outlast the store with the game's folder, and are put back from there.
  await page.getByRole('button', { name: 'Keep copies in this browser too' }).click();
  await expect(
    page.getByText(/^The game’s folder, in regressum-store, and \d+ copies in this browser\.$/),
  ).toBeVisible();
  await expect(page.getByText(/not copied yet/)).toBeHidden();
  rmSync(join(folder, 'regressum-store'), { recursive: true });
  writeFileSync(join(`${folder} shelf`, 'saves/two.sav'), 'written over');
  await page.reload();
  await page.getByRole('link', { name: /Only a copy is left.*Kept by hand/ }).click();
  await page.getByRole('button', { name: 'Put 1 file back' }).click();
  await fileSays(join(`${folder} shelf`, 'saves/two.sav'), 'a second save');
  await open(page, 'Survey');
}

for (const ranges of [true, false]) {
  test(`a game of one's own goes back in its folder, from a source ${ranges ? 'with' : 'without'} ranges`, async ({
    folderAt,
    startAt,
  }, info) => {
    const folder = folderAt();
    const shelf = folderAt(' shelf');
    const work = info.outputPath('work');
    mkdirSync(work, { recursive: true });
    const { address, asked, server } = await serve(await makeOwnSource(work), ranges);
    writeOwnFolder(folder, 2);
    try {
      const page = await startAt('new');
      await addGame(page, address);
      put(join(folder, 'set.ini'), '; mine\r\n[mods]\r\nload = 0\r\n');
      await page.getByLabel('rain (add-on)').check();
      await page.getByLabel('Subfolder').fill(info.testId);
      await page.getByRole('button', { name: `Add ${info.testId}` }).click();
      await page.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
      await expect(page.getByRole('heading', { name: 'harvest 2', exact: true })).toBeVisible();
      // The save is the player's, and a mod that nobody knows is no part of the game.
      await expect(page.getByText('1 file · 6 B').first()).toBeVisible();

      // What comes over the wire is all that a source without ranges changes.
      if (ranges) await keepAndPutBack(page, folder, info.testId);
      await choose(page, 'harvest 1');
      await open(page, 'Fetch');
      await expect(page.getByLabel('Passphrase')).toBeHidden();
      await page.getByRole('button', { name: 'Fetch only engine' }).click();
      await expect(page.getByRole('button', { name: 'Fetch only engine' })).toBeHidden();
      await expect(page.getByRole('region', { name: 'Fetch: list' })).toContainText(/engine.*complete/);
      await page.getByRole('button', { name: /^Fetch [\d.]+ .?B of/ }).click();
      await expect(page.getByText(/Everything for harvest 1 .* is on this disk/)).toBeVisible();
      // What is new came out of the bundle of its depot, which was asked for its first byte before.
      expect(asked.filter((path) => path.startsWith('/files/harvest_201/engine/'))).toEqual([]);
      const bundles = asked.filter((path) => /^\/bundles\/harvest_201\/engine.*\.zst$/.test(path));
      expect(bundles.length).toBeGreaterThan(0);
      expect(bundles.length).toBeLessThan(4);
      await open(page, 'Assemble');
      await page.getByRole('radiogroup').getByText('In place').click();
      await page.getByRole('button', { name: 'Lay down harvest 1 in place' }).click();
      await expect(page.getByText('in place, byte for byte')).toBeVisible();
      for (const [depot, path] of [
        ['orchard', 'data/all trees.bin'],
        ['orchard', 'data/tree-4.bin'],
        ['engine', 'orchard.prog'],
      ])
        expect(sameFile(join(folder, path!), join(work, `${depot}-1`, path!))).toBe(true);
      for (const gone of ['added.txt', 'data/rain/clouds.bin']) expect(existsSync(join(folder, gone))).toBe(false);
      expect(readFileSync(join(folder, 'profile/saves/one.sav'), 'utf8')).toBe('a save');
      expect(readFileSync(join(folder, 'grafts/pear.graft'), 'utf8')).toBe('a mod that nobody knows');
      // What the maker had of their own went into no source.
      expect(asked.some((path) => path.includes('private'))).toBe(false);
      if (!ranges) return;

      // What has mods be loaded was set back, as patches do: it is told, and set as a change.
      await page.getByRole('button', { name: 'Set it to 1' }).click();
      await fileSays(join(folder, 'set.ini'), '; mine\r\n[mods]\r\nload = 1\r\n');
      await expect(page.getByRole('button', { name: 'Set it to 1' })).toBeHidden();
      await page.getByRole('button', { name: 'It came up' }).click();
      await expect(page.getByText('It came up at harvest 1, as you said')).toBeVisible();
      put(join(folder, 'last.log'), 'Orchard harvest 1\nmenu ready\n');
      await page.getByRole('button', { name: 'Read last.log' }).click();
      await expect(page.getByText('Title screen of harvest 1, 0 mods loaded')).toBeVisible();
      await dropFile(page, 'crash.txt', 'Orchard harvest 1\nmenu ready\n');
      await page.getByRole('button', { name: 'Take it as a test start' }).click();
      await expect(page.getByText('Title screen of harvest 1, 0 mods loaded')).toBeVisible();
      const record = page.getByRole('region', { name: 'Storefront’s record' });
      await expect(record).toContainText('was not found');
      const state = join(shelf, 'state.xml');
      put(state, STATE('always'));
      chmodSync(state, 0o666);
      await record.getByLabel('Path of the record').fill(`${info.testId} shelf/state.xml`);
      await record.getByRole('button', { name: 'Use this record' }).click();
      await expect(record).toContainText('come by themselves');
      await page.getByRole('button', { name: /^Hold harvest 1/ }).click();
      await expect(record).toContainText('yes, read-only');
      expect([readFileSync(state, 'utf8'), statSync(state).mode & 0o222]).toEqual([STATE('never'), 0]);
      expect(storefrontWrites(state)).toBe('EACCES');
      await expect(page.getByText('Nothing has drifted.')).toBeVisible();
      // The files themselves are made read-only, but for what is the player's.
      const canWrite = (path: string): boolean => (statSync(join(folder, path)).mode & 0o222) !== 0;
      await page.getByRole('button', { name: 'Make the files read-only' }).click();
      await expect(page.getByText(/^2\d files read-only/)).toBeVisible();
      expect(['data/tree-4.bin', 'orchard.prog', 'set.ini', 'profile/saves/one.sav'].map(canWrite)).toEqual([
        ...[false, false, true, true],
      ]);
      // What somebody else does is noticed by who comes back to the page, without a click.
      rmSync(join(folder, 'data/tree-3.bin'));
      put(join(folder, 'data/tree-3.bin'), 'a hasty hand');
      await expect(async () => {
        await page.evaluate(() => window.dispatchEvent(new Event('focus')));
        await expect(page.getByText('data/tree-3.bin').first()).toBeVisible({ timeout: 2000 });
      }).toPass();
      await expect(page.getByText(/^1 file changed by hand/)).toBeVisible();
      await page.getByRole('button', { name: 'Accept it as it is' }).click();
      await expect(page.getByText('Nothing has drifted but for what you took over.')).toBeVisible();
      await page.getByRole('button', { name: 'Count it as drift again' }).click();
      await expect(page.getByText('1 file drifted from the sheet.')).toBeVisible();

      await page.goto('/games');
      await expect(page.getByRole('region', { name: OWN_GAME.title })).toContainText('held at harvest 1');
      await page.goBack();
      await page.getByRole('button', { name: 'Release the hold on harvest 1' }).click();
      await expect(record).toContainText('come by themselves');
      expect([readFileSync(state, 'utf8'), statSync(state).mode & 0o200]).toEqual([STATE('always'), 0o200]);
      expect(canWrite('data/tree-4.bin')).toBe(true);

      // Forward again, add-on and all, from what the change before has kept: only what the hasty hand spoilt has to come.
      const before = asked.length;
      await open(page, 'Survey');
      await page.getByRole('button', { name: `Check every file in ${info.testId}` }).click();
      await choose(page, 'harvest 2');
      await open(page, 'Fetch');
      await page.getByRole('button', { name: 'Fetch 33.0 kB of harvest 2' }).click();
      await expect(page.getByText(/Everything for harvest 2 .* is on this disk/)).toBeVisible();
      await open(page, 'Assemble');
      await page.getByRole('radiogroup').getByText('In place').click();
      await page.getByRole('button', { name: 'Lay down harvest 2 in place' }).click();
      await expect(page.getByText('in place, byte for byte')).toBeVisible();
      for (const [depot, path] of [
        ['orchard', 'data/tree-3.bin'],
        ['rain', 'data/rain/clouds.bin'],
      ])
        expect(sameFile(join(folder, path!), join(work, `${depot}-2`, path!))).toBe(true);
      expect(new Set(asked.slice(before).filter((path) => path.startsWith('/files/')))).toEqual(
        new Set(['/files/harvest_202/orchard/data/tree-3.bin']),
      );
    } finally {
      server.closeAllConnections();
      server.close();
    }
  });
}

test('of manifests alone, depots that came by other means are recognised by their contents and taken', async ({
  folderAt,
  startAt,
}, info) => {
  const folder = folderAt();
  const got = folderAt(' got');
  const work = info.outputPath('work');
  mkdirSync(work, { recursive: true });
  const source = await makeOwnSource(work, { withFiles: false });
  writeOwnFolder(folder, 2);
  put(join(folder, 'grafts/plum/plum.graft'), 'a mod of one’s own');
  put(join(folder, 'grafts/list.xml'), '<grafts>\n</grafts>\n');
  try {
    const page = await startAt('new');
    await page.goto(`/games#token=${SERVED_TOKEN}`);
    // Whatever is dropped is told for what it is; what belongs to a game waits until one is open.
    await dropFile(page, 'game.csv', 'mod;release;builds\nplum;0.3;harvest 1\n');
    await expect(page.getByRole('dialog')).toContainText('Open the folder that it is for');
    await page.keyboard.press('Escape');
    await dropFile(page, 'index.json', readFileSync(join(source, 'index.json'), 'utf8'));
    await page.getByRole('button', { name: 'Add its game' }).click();
    await expect(page.getByText('2 builds, 3 depots known.')).toBeVisible();
    await page.getByRole('button', { name: `Remove ${OWN_GAME.title}` }).click();
    await page.getByRole('button', { name: 'Remove it' }).click();
    await expect(page.getByRole('heading', { name: /^Take a game back/ })).toBeVisible();
    await dropFile(page, 'game.json', readFileSync(join(work, 'game.json'), 'utf8'));
    await page.getByRole('button', { name: 'Add the game' }).click();
    const { address, server } = await serve(source, true);
    await page.getByLabel('Address').fill(address);
    await page.getByRole('button', { name: 'Add this address' }).click();
    await expect(page.getByText('2 builds, 3 depots known.')).toBeVisible();
    await page.getByLabel('Subfolder').fill(info.testId);
    await page.getByRole('button', { name: `Add ${info.testId}` }).click();
    const check = page.getByRole('button', { name: `Check every file in ${info.testId}` });
    await check.click();
    await expect(page.getByRole('heading', { name: 'harvest 2', exact: true })).toBeVisible();
    // From here on nobody answers any more.
    server.closeAllConnections();
    server.close();

    await open(page, 'Choose');
    await page.getByRole('link', { name: 'Add mods' }).click();
    await page.getByRole('button', { name: 'Describe the mod in grafts/plum' }).click();
    await page.getByLabel('Release').fill('0.3');
    await page.getByLabel('Supported builds').fill('harvest 1');
    await page.getByRole('button', { name: 'Add this release' }).click();
    await expect(page.getByText('plum 0.3 was added to your mods.')).toBeVisible();
    await choose(page, 'harvest 1');
    await open(page, 'Fetch');
    const list = page.getByRole('region', { name: 'Fetch list' });
    await expect(list).toContainText('orchard 21 files');
    await expect(list).toContainText('6 of them missing');
    await expect(list.getByRole('button', { name: 'Copy the whole list' })).toBeVisible();
    // A depot of this build by another name and deeper, and one of another build.
    writeDepot(join(got, 'one/whatever it is called'), 'orchard', 1);
    writeDepot(join(got, 'two'), 'engine', 2);
    const look = page.getByRole('button', { name: `Look for depots in ${info.testId} got` });
    await page.getByLabel('Subfolder').fill(`${info.testId} got`);
    await look.click();
    const has = page.getByRole('list', { name: 'What that folder has' });
    await expect(has).toContainText('orchard complete, 21 files');
    await expect(has).toContainText('engine of harvest 2, not harvest 1');
    await expect(page.getByRole('link', { name: /^Fetch.* 2 missing/ })).toBeVisible();
    // Half of it, then all of it, moved.
    put(join(got, 'three/engine.ini'), 'build=1\n');
    await look.click();
    await expect(has).toContainText('engine 1 of 2 files');
    writeDepot(join(got, 'three'), 'engine', 1);
    await page.getByLabel('Move the files').check();
    await look.click();
    await expect(page.getByRole('link', { name: /^Fetch.* complete/ })).toBeVisible();
    await expect(has).toContainText('engine complete, 2 files');
    expect(existsSync(join(got, 'three/orchard.prog'))).toBe(false);
    expect(existsSync(join(got, 'one/whatever it is called/data/all trees.bin'))).toBe(true);
    await open(page, 'Assemble');
    await page.getByRole('radiogroup').getByText('In place').click();
    await page.getByRole('button', { name: 'Lay down harvest 1 in place' }).click();
    await expect(page.getByText('in place, byte for byte')).toBeVisible();
    expect(sameFile(join(folder, 'data/all trees.bin'), join(work, 'orchard-1/data/all trees.bin'))).toBe(true);
    expect(readFileSync(join(folder, 'grafts/list.xml'), 'utf8')).toBe(
      '<grafts>\n  <graft id="plum" grows="yes"/>\n</grafts>\n',
    );
  } finally {
  }
});

test('what is no source is refused by name, and a game goes out as a file and comes in elsewhere', async ({
  startAt,
}, info) => {
  const work = info.outputPath('work');
  put(join(work, 'source/page.html'), '<!doctype html><title>Sorry</title>');
  put(join(work, 'source/half.json'), '{"format": "regressum-depot-index", "version": 1}');
  const { address, server } = await serve(join(work, 'source'), true);
  try {
    const page = await startAt('new');
    await page.goto(`/games#token=${SERVED_TOKEN}`);
    await page.getByLabel('Title').fill(OWN_GAME.title);
    await page.getByRole('button', { name: 'Add this game' }).click();
    const at = (path: string): string => address.replace('index.json', path);
    for (const [typed, says] of [
      ['no address', 'is not a web address'],
      [at('nothing.json'), 'answered 404'],
      [at('page.html'), 'a web page came instead'],
      [at('half.json'), 'game'],
      ['http://no-such-host.invalid/index.json', 'did not answer'],
    ] as const) {
      await page.getByLabel('Address').fill(typed);
      await page.getByRole('button', { name: 'Add this address' }).click();
      await expect(page.getByRole('alert').filter({ hasText: says })).toBeVisible();
    }
    await expect(page.getByText('0 builds, 0 depots known.')).toBeVisible();
    const saved = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Export the game’s file' }).click();
    const file = await (await saved).path();
    expect(JSON.parse(readFileSync(file, 'utf8'))).toMatchObject({ title: OWN_GAME.title, sources: [] });

    // Handed on, with an address that somebody else put in: it is offered, and asked only once it is confirmed.
    const told = { ...OWN_GAME, sources: [{ of: 'builds', href: address }] };
    put(join(work, 'told.json'), JSON.stringify(told));
    await page.goto('/games');
    await page.locator('input[aria-label="File of a game"]').setInputFiles(join(work, 'told.json'));
    await page.getByRole('button', { name: 'Add this source' }).click();
    await expect(page.getByRole('alert').filter({ hasText: 'private network' })).toBeVisible();
    await page.getByRole('button', { name: 'Leave it out' }).click();
    await page.getByRole('button', { name: `Remove ${OWN_GAME.title}` }).click();
    await page.getByRole('button', { name: 'Remove it' }).click();
    await expect(page.getByRole('heading', { name: OWN_GAME.title })).toHaveCount(1);
  } finally {
    server.closeAllConnections();
    server.close();
  }
});
