import {
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statfsSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { sha256 } from './kit.mjs';

/*
 * Where a game's folder of the storm lies, as others than the program see it: what lies there, and what a player, a storefront or a hand
 * does there. Nothing here is the program's: files are listed and read anew, by what the platform gives.
 */

export const keyOf = (bytes) => `${bytes.length}:${sha256(bytes)}`;

const known = new Map();
/** The content of a file; read again where anything of it tells that it may be another. */
function contentAt(path) {
  const { size, mtimeMs, ino, ctimeMs } = statSync(path);
  const name = `${path} ${size} ${mtimeMs} ${ctimeMs} ${ino}`;
  let key = known.get(name);
  if (key === undefined) known.set(name, (key = keyOf(readFileSync(path))));
  return key;
}

function below(folder, path = '') {
  return readdirSync(join(folder, path), { withFileTypes: true }).flatMap((entry) => {
    const at = path === '' ? entry.name : `${path}/${entry.name}`;
    return entry.isDirectory() ? below(folder, at) : [at];
  });
}

/**
 * A folder of this machine.
 * @param elsewhere contents that lie in another place besides, which a picked folder has in the browser
 */
export class DiskGround {
  constructor(folder, elsewhere = async () => []) {
    this.folder = folder;
    this.elsewhere = elsewhere;
  }
  /** The contents of the game's folder by path, without the store that lies in it. */
  async files() {
    const paths = below(this.folder).filter((path) => !path.startsWith('regressum-store/'));
    return new Map(paths.map((path) => [path, contentAt(join(this.folder, path))]));
  }
  /** All contents, wherever they lie. */
  async everything() {
    return new Set([
      ...below(this.folder).map((path) => contentAt(join(this.folder, path))),
      ...(await this.elsewhere()),
    ]);
  }
  /** @returns whether it could be written: what is locked cannot */
  async write(path, bytes, { ahead = false } = {}) {
    const at = join(this.folder, path);
    mkdirSync(dirname(at), { recursive: true });
    try {
      writeFileSync(at, bytes);
    } catch {
      return false;
    }
    if (ahead) utimesSync(at, new Date(), new Date(Date.now() + 3_600_000));
    return true;
  }
  async remove(path) {
    rmSync(join(this.folder, path), { force: true });
  }
  async textOf(path) {
    return readFileSync(join(this.folder, path), 'utf8');
  }
  /** Fills the drive, but for some bytes. @returns what frees them again */
  fill(but) {
    const filler = join(this.folder, '../filler.dat');
    const { bavail, bsize } = statfsSync(this.folder);
    writeFileSync(filler, Buffer.alloc(Math.max(0, bavail * bsize - but)));
    return () => rmSync(filler, { force: true });
  }
  /** The folder is gone for a moment. */
  async vanish() {
    renameSync(this.folder, `${this.folder}-away`);
    await new Promise((done) => setTimeout(done, 50));
    rmSync(this.folder, { recursive: true, force: true });
    renameSync(`${this.folder}-away`, this.folder);
  }
}

/* What runs in a page. */

/** Contents below a folder of the browser's own disk, by path. */
async function readOwnDisk(root) {
  const seen = (globalThis.seenOnDisk ??= new Map());
  const all = [];
  const visit = async (folder, path) => {
    for await (const [name, handle] of folder.entries()) {
      const at = path === '' ? name : `${path}/${name}`;
      if (handle.kind === 'directory') {
        await visit(handle, at);
        continue;
      }
      const file = await handle.getFile();
      const id = `${root}/${at} ${file.size} ${file.lastModified}`;
      if (!seen.has(id)) {
        const digest = new Uint8Array(await crypto.subtle.digest('SHA-256', await file.arrayBuffer()));
        // One that was written a moment ago may change again within the same millisecond.
        const key = `${file.size}:${[...digest].map((byte) => byte.toString(16).padStart(2, '0')).join('')}`;
        if (Date.now() - file.lastModified > 1000) seen.set(id, key);
        all.push([at, key]);
      } else all.push([at, seen.get(id)]);
    }
  };
  let folder = await navigator.storage.getDirectory();
  for (const name of root.split('/').filter(Boolean)) folder = await folder.getDirectoryHandle(name);
  await visit(folder, '');
  return all;
}

/** Writes a text to the browser's own disk, removes what lies there, or reads it. */
async function changeOwnDisk([path, does, text]) {
  const names = path.split('/');
  const last = names.pop();
  let folder = await navigator.storage.getDirectory();
  try {
    for (const name of names) folder = await folder.getDirectoryHandle(name, { create: does === 'write' });
    if (does === 'remove') return void (await folder.removeEntry(last));
    const file = await folder.getFileHandle(last, { create: does === 'write' });
    if (does === 'read') return await (await file.getFile()).text();
    const stream = await file.createWritable();
    await stream.write(text);
    await stream.close();
  } catch (error) {
    if (error.name !== 'NotFoundError') throw error;
  }
  return undefined;
}

/** All contents on the own disk of a page's browser. */
export const contentsOfBrowser = async (page) => (await page.evaluate(readOwnDisk, '')).map(([, key]) => key);

/** The game's folder on a browser's own disk. */
export class BrowserGround {
  /** @param page gives a page of the browser; pages are killed now and then */
  constructor(page, install) {
    this.page = page;
    this.install = install;
  }
  async #tree() {
    const pointer = await this.page().evaluate(changeOwnDisk, [`installs/${this.install}/current.dat`, 'read']);
    return `installs/${this.install}/trees/${pointer === undefined ? 't1' : JSON.parse(pointer).tree}`;
  }
  async #change(path, does, text) {
    return this.page().evaluate(changeOwnDisk, [`${await this.#tree()}/${path}`, does, text]);
  }
  async files() {
    return new Map(await this.page().evaluate(readOwnDisk, await this.#tree()));
  }
  everything() {
    return contentsOfBrowser(this.page()).then((keys) => new Set(keys));
  }
  /** Has the browser allow no more than some bytes besides. @returns what lifts that */
  async fill(but) {
    const session = await this.page().context().newCDPSession(this.page());
    const origin = new URL(this.page().url()).origin;
    const { usage } = await session.send('Storage.getUsageAndQuota', { origin });
    await session.send('Storage.overrideQuotaForOrigin', { origin, quotaSize: usage + but });
    return async () => {
      await session.send('Storage.overrideQuotaForOrigin', { origin });
      await session.detach();
    };
  }
  async write(path, bytes) {
    await this.#change(path, 'write', bytes.toString());
    return true;
  }
  remove(path) {
    return this.#change(path, 'remove');
  }
  async textOf(path) {
    const text = await this.#change(path, 'read');
    if (text === undefined) throw new Error(`${path} is not there`);
    return text;
  }
}
