import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { type AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { type Page } from '@playwright/test';
import { expect } from './expect';
import { SERVED_TOKEN } from './served-root';

/*
 * A second made-up game, which nothing of the product knows: two depots, an add-on that only its second build has, a folder of
 * mods with their list in XML, saves deep inside, no branch called main. Its builds are made into real folders, and its source is served by a server of the test's own.
 */

export const OWN_GAME = {
  format: 'regressum-game',
  version: 1,
  id: 'glass-orchard',
  title: 'Glass Orchard',
  rules: {
    program: 'orchard.prog',
    modsFolder: 'grafts',
    loadOrder: 'grafts/list.xml',
    listSyntax: { head: '<grafts>\n', on: '  <graft id="{mod}" grows="yes"/>', tail: '\n</grafts>\n' },
    own: [
      { folder: 'profile/saves', kind: 'saves' },
      { folder: 'grafts/*.set', kind: 'presets' },
    ],
  },
  sources: [],
};

/** Bytes that look like a game's, the same for the same words. */
function bytesOf(words: string, length: number): Buffer {
  const block = createHash('sha512').update(words).digest();
  return Buffer.concat(
    Array.from({ length: Math.ceil(length / 64) }, (_, i) => Buffer.from(block.map((b) => b ^ (i & 255)))),
  ).subarray(0, length);
}

export function put(path: string, bytes: Buffer | string): void {
  mkdirSync(dirname(path), { recursive: true });
  writeFileSync(path, bytes);
}

type OwnDepot = 'orchard' | 'engine' | 'rain';
const depotsOf = (build: number): OwnDepot[] => ['orchard', 'engine', ...(build > 1 ? (['rain'] as const) : [])];

/** Writes a depot of a build. */
export function writeDepot(folder: string, depot: OwnDepot, build: number): void {
  if (depot === 'rain') return put(join(folder, 'data/rain/clouds.bin'), bytesOf(`clouds ${build}`, 90_000));
  if (depot === 'engine') {
    put(join(folder, 'orchard.prog'), bytesOf(`program ${build}`, 200_000));
    put(join(folder, 'engine.ini'), `build=${build}\n`);
    if (build > 1) put(join(folder, 'added.txt'), 'since the second build');
    return;
  }
  for (let i = 0; i < 20; i++)
    put(join(folder, `data/tree-${i}.bin`), bytesOf(`tree ${i} ${i % 4 === 0 ? build : 0}`, 30_000 + 1000 * i));
  put(join(folder, 'data/all trees.bin'), bytesOf(`all ${build}`, 2_600_000));
}

/** How the game is made: with how many builds, and what its depot `orchard` has besides at each. */
export interface OwnMaking {
  readonly builds?: number;
  readonly add?: (folder: string, build: number) => void;
  /** Or its manifests alone. */
  readonly withFiles?: boolean;
}

/** Writes the builds as depots, and a source of them by the command. */
export async function makeOwnSource(
  work: string,
  { builds = 2, add = () => undefined, withFiles = true }: OwnMaking = {},
): Promise<string> {
  const source = join(work, 'source');
  put(join(work, 'game.json'), JSON.stringify(OWN_GAME));
  for (let build = 1; build <= builds; build++) {
    const from: string[] = [];
    for (const depot of depotsOf(build)) {
      const folder = join(work, `${depot}-${build}`);
      writeDepot(folder, depot, build);
      if (depot === 'orchard') add(folder, build);
      from.push('--from', `${depot}=${folder}`);
    }
    // What a person has beside them is nobody else's.
    put(join(work, `engine-${build}/profile/saves/private.sav`), 'mine');
    const args = ['--game', join(work, 'game.json'), '--label', `harvest ${build}`, '--date', `2026-0${build}-15`];
    await promisify(execFile)(process.execPath, [
      'scripts/make-source.mjs',
      ...args,
      '--on',
      'stable',
      ...from,
      ...(build > 1 ? ['--kind', 'rain=add-on'] : []),
      ...(withFiles ? ['--with-files'] : []),
      '--to',
      source,
    ]);
  }
  return source;
}

/** Writes the folder of a build, with a save and a mod of the player's. */
export function writeOwnFolder(folder: string, build: number): void {
  for (const depot of depotsOf(build)) writeDepot(folder, depot, build);
  put(join(folder, 'profile/saves/one.sav'), 'a save');
  put(join(folder, 'grafts/pear.graft'), 'a mod that nobody knows');
}

/** Serves a folder, with or without parts of files, and says what was asked for. */
export async function serve(
  folder: string,
  ranges: boolean,
): Promise<{ address: string; asked: string[]; server: Server }> {
  const asked: string[] = [];
  const server = createServer((request, response) => {
    const path = join(folder, decodeURIComponent(new URL(request.url!, 'http://x').pathname));
    asked.push(request.url!);
    let size: number;
    try {
      size = statSync(path).size;
    } catch {
      return void response.writeHead(404).end('<html>no such page</html>');
    }
    const range = ranges ? /^bytes=(\d+)-(\d+)$/.exec(request.headers.range ?? '') : null;
    if (!range) {
      response.writeHead(200, { 'Content-Length': size });
      return void createReadStream(path).pipe(response);
    }
    const [start, end] = [Number(range[1]), Math.min(size - 1, Number(range[2]))];
    response.writeHead(206, { 'Content-Length': end - start + 1, 'Content-Range': `bytes ${start}-${end}/${size}` });
    createReadStream(path, { start, end }).pipe(response);
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return { address: `http://127.0.0.1:${(server.address() as AddressInfo).port}/index.json`, asked, server };
}

export const sameFile = (a: string, b: string): boolean => readFileSync(a).equals(readFileSync(b));

/** Waits until a file says this; while a change is under way, it may not be there at all. */
export const fileSays = (path: string, text: string): Promise<void> =>
  expect(() => expect(readFileSync(path, 'utf8')).toBe(text)).toPass({ timeout: 240_000 });

/** Adds the game from its file, and its source by address. */
export async function bringGame(page: Page, address: string): Promise<void> {
  await page.goto(`/games#token=${SERVED_TOKEN}`);
  const file = { name: 'game.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(OWN_GAME)) };
  await page.getByLabel('File of a game').setInputFiles(file);
  await page.getByLabel('Address').fill(address);
  await page.getByRole('button', { name: 'Add this address' }).click();
  await expect(page.getByText(/\d builds, 3 depots known\./)).toBeVisible();
}

/** Adds a served folder of the game from the game's page, and has every file of it checked. */
export async function addOwnFolder(page: Page, name: string, build: string): Promise<void> {
  await page.getByRole('textbox', { name: 'Subfolder' }).fill(name);
  await page.getByRole('button', { name: `Add ${name}` }).click();
  await page.getByRole('button', { name: `Check every file in ${name}` }).click();
  await expect(page.getByRole('heading', { name: build, exact: true })).toBeVisible();
}

/** A mod's file of the second game, the same for the same release. */
const graftOf = (mod: string, version: string, path = ''): Buffer => bytesOf(`${mod} ${version}${path}`, 20_000);
const graftAt = (mod: string, version: string): string => `grafts/${mod}/${mod}-${version}.graft`;

interface OwnRelease {
  readonly version: string;
  readonly builds: readonly number[];
  readonly brokenOn?: readonly number[];
  readonly requires?: readonly { readonly mod: string; readonly from?: string; readonly to?: string }[];
  readonly touches?: readonly string[];
  /** Files that it brings besides its own, some with what is in them. */
  readonly more?: readonly (string | readonly [path: string, text: string])[];
}

export type OwnMods = Readonly<Record<string, readonly OwnRelease[]>>;

/** A loader that every build has one of, one mod that follows it, one whose author is silent, one that breaks, one that nothing touches. */
export const OWN_MODS: OwnMods = {
  trellis: [
    { version: '1', builds: [1], touches: ['orchard.prog'] },
    { version: '2', builds: [2], touches: ['orchard.prog'] },
  ],
  damson: [
    { version: '1.0', builds: [1], requires: [{ mod: 'trellis', to: '1' }] },
    { version: '2.0', builds: [2], requires: [{ mod: 'trellis', from: '2' }] },
  ],
  medlar: [{ version: '3', builds: [1], touches: ['data/tree-4.bin'] }],
  sloe: [{ version: '1', builds: [1], brokenOn: [2] }],
  quince: [{ version: '5', builds: [1, 2] }],
};

/** Files of a release, and their bytes. */
const filesOf = (id: string, { version, more = [] }: OwnRelease): [path: string, bytes: Buffer][] => [
  [graftAt(id, version), graftOf(id, version)],
  ...more.map((one): [string, Buffer] =>
    typeof one === 'string' ? [one, graftOf(id, version, one)] : [one[0], Buffer.from(one[1])],
  ),
];

/** Writes a catalogue of mods with their files into the folder that is served. @returns the catalogue's name */
export function makeOwnCatalogue(source: string, all: OwnMods): string {
  const label = (build: number): string => `harvest ${build}`;
  const mods = Object.entries(all).map(([id, releases]) => ({
    ...{ id, name: id[0]!.toUpperCase() + id.slice(1), author: 'A gardener', lookedAfter: id !== 'sloe', summary: '' },
    kind: id === 'trellis' ? 'loader' : 'data',
    releases: releases.map((release) => {
      const { version, builds, brokenOn = [], requires = [], touches = [] } = release;
      const files = filesOf(id, release).map(([path, bytes], i) => {
        const href = `mods/${id}-${version}-${i}.graft`;
        put(join(source, href), bytes);
        return { path, size: bytes.length, href, sha256: createHash('sha256').update(bytes).digest('hex') };
      });
      return {
        ...{ version, date: '2026-01-20', requires, touches },
        ...{ builds: builds.map(label), brokenOn: brokenOn.map(label) },
        files,
      };
    }),
  }));
  writeFileSync(join(source, 'mods.json'), JSON.stringify({ format: 'regressum-mod-catalogue', version: 1, mods }));
  return 'mods.json';
}

/** Puts the mods into a folder as they are at its first build. */
export function writeOwnMods(folder: string, mods: OwnMods): void {
  for (const [id, [first]] of Object.entries(mods))
    for (const [path, bytes] of filesOf(id, first!)) put(join(folder, path), bytes);
}

/** Adds the catalogue as a source of the game's mods, from the game's page. */
export async function addOwnCatalogue(page: Page, address: string, mods: number): Promise<void> {
  await page.getByRole('combobox', { name: 'It tells of' }).click();
  await page.getByRole('option', { name: 'mods (a catalogue)' }).click();
  await page.getByLabel('Address').fill(address);
  await page.getByRole('button', { name: 'Add this address' }).click();
  await expect(page.getByText(new RegExp(`\\d builds, 3 depots, ${mods} mods? known\\.`))).toBeVisible();
}
