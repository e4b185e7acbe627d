import { execFile } from 'node:child_process';
import { createHash } from 'node:crypto';
import { createReadStream, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { type AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';

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
    own: [{ folder: 'profile/saves', kind: 'saves' }],
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

/** Writes both builds as depots, and a source of them by the command, with their files or of manifests alone. */
export async function makeOwnSource(work: string, withFiles = true): Promise<string> {
  const source = join(work, 'source');
  put(join(work, 'game.json'), JSON.stringify(OWN_GAME));
  for (const build of [1, 2]) {
    const from: string[] = [];
    for (const depot of depotsOf(build)) {
      const folder = join(work, `${depot}-${build}`);
      writeDepot(folder, depot, build);
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
      ...(withFiles ? ['--with-files', '--pack'] : []),
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
