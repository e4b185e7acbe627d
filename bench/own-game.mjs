import { mkdirSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { addBuild, filesBelow, openPage, put, sha256, startServer, TOKEN, tool } from './kit.mjs';

/* A made-up game with as many mods as one likes in a real folder, brought into the application by its own interface. */

function fileOf(mod, version, i) {
  const bytes = Buffer.from(sha256(`${mod} ${version} ${i}`).repeat(16 + ((mod * 31 + i * 7) % 200)));
  return { path: `mods/mod-${mod}/part-${i % 5}/file-${i}.dat`, bytes };
}

/**
 * Writes a game's folder, a source of its builds and a catalogue of its mods below `work`. With two builds the folder is at the newer one
 * and its mods are as they were at the older; of six mods four have a release for the newer, one of them needs another mod, one touches
 * files that changed.
 * @returns the folder
 */
export function makeModdedGame(work, { mods, files, builds = 1 }) {
  const root = join(work, 'root/game');
  const rules = {
    program: 'game.prog',
    modsFolder: 'mods',
    loadOrder: 'mods/list.txt',
    own: [{ folder: 'saves', kind: 'saves' }],
  };
  const game = { format: 'regressum-game', version: 1, id: 'own', title: 'Own', rules, sources: [] };
  put(join(work, 'game.json'), JSON.stringify(game));
  const labels = ['1.0', '2.0'].slice(0, builds);
  for (const [number, label] of labels.entries()) {
    for (let i = 0; i < 50; i++) {
      const changes = i % 3 === 0 ? number : 0;
      put(join(work, 'base', i === 0 ? 'game.prog' : `data/file-${i}.bin`), `base ${i} ${changes}`.repeat(200));
    }
    addBuild(work, label, `2026-0${number + 1}-01`, { base: join(work, 'base') });
  }
  mkdirSync(dirname(root), { recursive: true });
  tool('cp', ['-r', join(work, 'base'), root]);
  put(join(root, 'saves/one.sav'), 'a save');
  const perMod = Math.ceil(files / mods);
  const catalogue = Array.from({ length: mods }, (_, mod) => {
    const isUpdated = builds > 1 && mod % 6 < 4;
    const releases = (isUpdated ? labels : ['1.0']).map((version) => ({
      ...{ version, date: '2026-01-01', builds: [version], href: '' },
      touches: mod % 6 === 4 ? ['data/file-3.bin'] : [],
      requires: mod % 6 === 1 ? [{ mod: `mod-${mod - 1}`, from: version }] : [],
      files: Array.from({ length: perMod }, (_, i) => {
        const { path, bytes } = fileOf(mod, version, i);
        if (version === '1.0') put(join(root, path), bytes);
        return { path, size: bytes.length, sha256: sha256(bytes), href: '' };
      }),
    }));
    const about = { author: 'A Maker', kind: 'data', lookedAfter: mod % 6 !== 5, summary: '' };
    return { id: `mod-${mod}`, name: `Mod ${mod}a`, ...about, releases };
  });
  put(join(root, 'mods/list.txt'), catalogue.map(({ id }) => `${id}\n`).join(''));
  put(join(work, 'catalogue.json'), JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods: catalogue }));
  return root;
}

/**
 * Starts the built server on a port, opens a browser of its own, adds the game and its folder and has every file checked.
 * @param source where the game's source is served; its files are handed over where it is left out
 * @returns the page, and the address of the folder's pages
 */
export async function openModdedGame(work, port, source) {
  await startServer(port, { roots: join(work, 'root') });
  const page = await openPage({ profile: join(work, 'profile'), baseURL: `http://127.0.0.1:${port}` });
  const press = (name) => page.getByRole('button', { name }).first().click();
  await page.goto(`/games#token=${TOKEN}`);
  await page.getByLabel('File of a game').setInputFiles(join(work, 'game.json'));
  if (source) {
    await page.getByLabel('Address').fill(`${source}/index.json`);
    await press('Add this address');
  }
  const handed = source ? [] : filesBelow(join(work, 'source'));
  await page
    .locator('input[type=file][multiple]')
    .first()
    .setInputFiles([...handed, join(work, 'catalogue.json')]);
  await page
    .getByText(/^\d builds?, 1 depot, /)
    .first()
    .waitFor();
  await page.getByLabel('Subfolder').fill('game');
  await press('Add game');
  await press('Check every file in game');
  await page
    .getByText(/files, checked/)
    .first()
    .waitFor();
  return { page, home: `/${new URL(page.url()).pathname.split('/')[1]}` };
}
