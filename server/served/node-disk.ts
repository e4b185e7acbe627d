import { spawnSync } from 'node:child_process';
import {
  closeSync,
  constants,
  fchmodSync,
  fstatSync,
  fsyncSync,
  ftruncateSync,
  futimesSync,
  openSync,
  readSync,
  renameSync,
  rmdirSync,
  type Stats,
  statfsSync,
  statSync,
  unlinkSync,
  writeSync,
} from 'node:fs';
import { copyFile } from 'node:fs/promises';
import { z } from 'zod';
import { type Disk, isInStore, isShared, PLACES, STORE_FOLDER } from '#core/changes';
import { Failure, isFailure } from '#core/failure';
import type { FolderEntry, OpenFile } from '#core/folders';
import { parseJson } from '#core/json';
import { fileName, folderOf, isBelow, topFolder } from '#core/paths';
import { fileFailure, type HeldRoot, openFolderBelow, type OpenFolder, partsBelow, withFileIn } from './below';
import { listBelow } from './list-below';
import { giveLockBack, type LockFiles, renewLock, takeLock } from './writer-lock';

/*
 * A game's folder and its store on the machine's own disk, as the engine for changes wants them. Synchronous inside, but
 * for copies between two files that are open: it runs in a thread that does nothing else.
 */

export interface DiskPlace {
  readonly game: HeldRoot;
  /** The game's folder below its root; empty where it is the root. */
  readonly folder: string;
  readonly store: HeldRoot;
  readonly storeFolder: string;
  /** Where the games of the store share their contents: below the store's root too. */
  readonly sharedFolder: string;
  /** Files and folders elsewhere below a root that a person pointed at, by what they are called on the disk. */
  readonly beside?: Readonly<Record<string, BesidePlace>> | undefined;
}

interface BesidePlace {
  readonly root: HeldRoot;
  readonly path: string;
  /** What lies there is another's, and only read. */
  readonly onlyRead?: true;
}

/** The tree that the game's folder is before anything was swapped. */
export const FIRST_TREE = 't1';

const CURRENT = 'current.dat';
const EXCHANGE = 'exchange.dat';
const CurrentSchema = z.object({ tree: z.string() });
const ExchangeSchema = z.object({ from: z.string(), to: z.string(), phase: z.enum(['out', 'in']) });
type Exchange = z.infer<typeof ExchangeSchema>;

/** A file that is being written, in the folder that it is for: a name of its own, since that of the file may be as long as can be. */
const FRESH = '.regressum-fresh';
/** Bytes of a name in UTF-8 that every common file system takes. */
const LONGEST_NAME = 255;
const WRITABLE = 0o222;
const BYTES_AT_ONCE = 1 << 20;
/** More files than this are made durable by one call for the whole disk, where the system has one. */
const SYNCED_ONE_BY_ONE = 16;

/** Folders that are held open. */
const MOST_OPEN = 16;

const { O_WRONLY, O_CREAT, O_EXCL, O_NOFOLLOW = 0, COPYFILE_FICLONE } = constants;
const join = (...parts: readonly string[]): string => parts.filter((part) => part !== '').join('/');
const isMissing = (error: unknown): boolean =>
  isFailure(error, 'folder/not-found') || (error as NodeJS.ErrnoException).code === 'ENOENT';

/**
 * Opens a new file of a name in a folder; what lies there goes.
 * @param assertGoes throws where it may not
 * @returns a descriptor, to be closed
 */
function openNew(folder: OpenFolder, name: string, assertGoes: () => void = () => undefined): number {
  folder.assertSame();
  const place = folder.placeOf(name);
  const open = (): number => openSync(place, O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW, 0o666);
  try {
    return open();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw error;
    assertGoes();
    unlinkSync(place);
    return open();
  }
}

function copyBytes(from: number, to: number): void {
  const buffer = Buffer.allocUnsafe(BYTES_AT_ONCE);
  for (let at = 0; ;) {
    const read = readSync(from, buffer, 0, buffer.length, at);
    if (read === 0) break;
    writeAll(to, buffer.subarray(0, read), at);
    at += read;
  }
}

function readAll(fd: number): Uint8Array<ArrayBuffer> {
  const bytes = new Uint8Array(fstatSync(fd).size);
  let filled = 0;
  while (filled < bytes.length) {
    const read = readSync(fd, bytes, filled, bytes.length - filled, filled);
    if (read === 0) break;
    filled += read;
  }
  return bytes.subarray(0, filled);
}

function writeAll(fd: number, bytes: Uint8Array, at: number): void {
  for (let done = 0; done < bytes.length;) done += writeSync(fd, bytes, done, bytes.length - done, at + done);
}

/** One file or folder of the disk: the folder that it lies in, open, and its name there. */
interface Spot {
  readonly folder: OpenFolder;
  readonly name: string;
  readonly path: string;
}

export class NodeDisk implements Disk {
  readonly can = { write: true, move: true, readOnlyFlag: true, times: true, freeSpace: true };
  /** Folders that were opened last, since files of one folder come after one another. */
  readonly #open = new Map<string, OpenFolder>();
  #current: string;

  /** @throws Failure `folder/*`, `served/*`, `json/*` */
  constructor(private readonly place: DiskPlace) {
    this.#current = this.#readJson(CURRENT, CurrentSchema)?.tree ?? FIRST_TREE;
  }

  /** The tree that was the game's folder last, be it that an exchange is under way. To look at; nothing is ended by it. */
  get lastKnown(): string {
    return this.#current;
  }

  /** Where the game's folder really lies. */
  get gamePath(): string {
    return join(this.place.game.path, this.place.folder);
  }

  close(): void {
    for (const folder of this.#open.values()) folder.close();
    this.#open.clear();
  }

  /** Where a path of this disk lies: the root, and the path below it. @throws Failure `served/outside` */
  placeOf(path: string): { root: HeldRoot; path: string } {
    const { game, folder, store, storeFolder, sharedFolder } = this.place;
    if (isShared(path)) return { root: store, path: join(sharedFolder, path) };
    if (topFolder(path) === PLACES.beside) return this.#besideOf(path);
    const tree = `trees/${this.#current}`;
    if (path !== tree && !isBelow(path, tree)) return { root: store, path: join(storeFolder, path) };
    const below = path.slice(tree.length + 1);
    if (isInStore(below)) throw new Failure('served/outside', { path });
    return { root: game, path: join(folder, below) };
  }

  #besideOf(path: string): BesidePlace {
    const [, name, ...rest] = path.split('/');
    const { beside = {} } = this.place;
    const place = name !== undefined && Object.hasOwn(beside, name) ? beside[name] : undefined;
    if (!place) throw new Failure('served/outside', { path });
    return { ...place, path: join(place.path, ...rest) };
  }

  /** @throws Failure `folder/no-permission` where what lies beside is only read */
  #assertOurs(...paths: readonly string[]): void {
    for (const path of paths)
      if (topFolder(path) === PLACES.beside && this.#besideOf(path).onlyRead)
        throw new Failure('folder/no-permission', { path });
  }

  #folder(path: string, make: boolean): OpenFolder {
    const known = this.#open.get(path);
    // The one that was asked for last stands last, and is the last to be closed.
    this.#open.delete(path);
    const { root, path: real } = this.placeOf(path);
    const folder = known ?? openFolderBelow(root, real, make);
    this.#open.set(path, folder);
    const [oldest] = this.#open.keys();
    if (this.#open.size > MOST_OPEN) {
      this.#open.get(oldest!)!.close();
      this.#open.delete(oldest!);
    }
    return folder;
  }

  /** Folders that were moved or removed must not be written into by their old handles. */
  #forget(): void {
    this.close();
  }

  /** @throws Failure `served/outside`; `path/too-long` where something is to be made by a name that no disk can hold */
  #spot(path: string, make = false): Spot {
    const parts = partsBelow(path);
    if (make && parts.some((part) => Buffer.byteLength(part) > LONGEST_NAME))
      throw new Failure('path/too-long', { path, limit: LONGEST_NAME });
    return { folder: this.#folder(folderOf(path), make), name: fileName(path), path };
  }

  /** @throws Failure of the file system, as one that names the path on the disk */
  #naming<T>(path: string, work: () => T): T {
    try {
      return work();
    } catch (error) {
      if (isFailure(error)) throw new Failure(error.code, { ...error.facts, path }, { cause: error.cause });
      throw fileFailure(error, path);
    }
  }

  /** Of a file or folder, undefined where nothing lies. */
  #statAt({ folder, name }: Spot): Stats | undefined {
    try {
      return folder.stat(name);
    } catch (error) {
      if (isMissing(error)) return undefined;
      throw error;
    }
  }

  #spotIfThere(path: string): { spot: Spot; is: Stats } | undefined {
    try {
      const spot = this.#spot(path);
      const is = this.#statAt(spot);
      return is && { spot, is };
    } catch (error) {
      if (isMissing(error)) return undefined;
      throw error;
    }
  }

  /** @throws Failure `folder/read-only`, or `served/outside` where a link lies there */
  #assertWritable(spot: Spot): void {
    const is = this.#statAt(spot);
    if (!is) return;
    if (is.isSymbolicLink()) throw new Failure('served/outside', { path: spot.path });
    if (is.isFile() && (is.mode & WRITABLE) === 0) throw new Failure('folder/read-only', { path: spot.path });
  }

  #writeNow(path: string, bytes: Uint8Array): void {
    const spot = this.#spot(path, true);
    this.#assertWritable(spot);
    const fd = openNew(spot.folder, FRESH);
    try {
      writeAll(fd, bytes, 0);
    } finally {
      closeSync(fd);
    }
    this.#putInPlace(spot);
  }

  #putInPlace({ folder, name }: Spot): void {
    renameSync(folder.placeOf(FRESH), folder.placeOf(name));
  }

  #readJson<Schema extends z.ZodType>(path: string, schema: Schema): z.output<Schema> | undefined {
    const there = this.#spotIfThere(path);
    if (!there) return undefined;
    const bytes = withFileIn(there.spot.folder, there.spot.name, readAll);
    return parseJson(new TextDecoder().decode(bytes), schema, path);
  }

  #writeJson(path: string, value: unknown): void {
    this.#writeNow(path, new TextEncoder().encode(JSON.stringify(value)));
    this.#syncOne(path);
  }

  async list(path = '', listener: Parameters<Disk['list']>[1] = {}): Promise<FolderEntry[]> {
    const entries: FolderEntry[] = [];
    const skip = (below: string): boolean => fileName(below) === STORE_FOLDER || below.endsWith(FRESH);
    let folder: OpenFolder;
    try {
      folder = this.#naming(path, () => {
        const { root, path: real } = this.placeOf(path);
        return openFolderBelow(root, real);
      });
    } catch (error) {
      if (isMissing(error)) return [];
      throw error;
    }
    try {
      for (const entry of listBelow(folder, skip)) {
        const at = path === '' ? entry.path : `${path}/${entry.path}`;
        if ('code' in entry) listener.refused?.(at, entry.code);
        else entries.push({ path: at, size: entry.size, modified: entry.modified });
      }
    } finally {
      folder.close();
    }
    listener.found?.(entries.length);
    return entries.sort((a, b) => (a.path < b.path ? -1 : 1));
  }

  async stat(path: string): Promise<FolderEntry | undefined> {
    const is = this.#naming(path, () => this.#spotIfThere(path)?.is);
    if (is?.isSymbolicLink()) throw new Failure('served/outside', { path });
    return is?.isFile() ? { path, size: is.size, modified: Math.round(is.mtimeMs) } : undefined;
  }

  async open(path: string): Promise<OpenFile> {
    const fd = this.descriptor(path);
    return {
      size: fstatSync(fd).size,
      async read(start, end, into) {
        const bytes = into?.subarray(0, Math.max(0, end - start)) ?? new Uint8Array(Math.max(0, end - start));
        let filled = 0;
        while (filled < bytes.length) {
          const read = readSync(fd, bytes, filled, bytes.length - filled, start + filled);
          if (read === 0) break;
          filled += read;
        }
        return bytes.subarray(0, filled);
      },
      close: () => closeSync(fd),
    };
  }

  /** Opens a file to read. @returns a descriptor, which the caller closes */
  descriptor(path: string): number {
    return this.#naming(path, () => {
      const { folder, name } = this.#spot(path);
      return folder.openFile(name);
    });
  }

  readonly #locks: LockFiles & { write(name: string, text: string): void } = {
    create: (name, text) =>
      this.#naming(name, () => {
        const { folder } = this.#spot(name, true);
        folder.assertSame();
        let fd: number;
        try {
          fd = openSync(folder.placeOf(name), O_WRONLY | O_CREAT | O_EXCL | O_NOFOLLOW, 0o666);
        } catch (error) {
          if ((error as NodeJS.ErrnoException).code === 'EEXIST') return false;
          throw error;
        }
        try {
          writeAll(fd, new TextEncoder().encode(text), 0);
        } finally {
          closeSync(fd);
        }
        return true;
      }),
    read: (name) =>
      this.#naming(name, () => {
        const there = this.#spotIfThere(name);
        if (!there) return undefined;
        try {
          return new TextDecoder().decode(withFileIn(there.spot.folder, there.spot.name, readAll));
        } catch (error) {
          if (isMissing(error)) return undefined;
          throw error;
        }
      }),
    remove: (name) => this.#naming(name, () => this.#removeAt(name)),
    // It need not outlast a loss of power, which no process does.
    write: (name, text) => this.#naming(name, () => this.#writeNow(name, new TextEncoder().encode(text))),
  };

  /**
   * Takes the writer's lock of the store, until {@link unlock}. One that was left by a process which is no more is taken over.
   * @throws Failure `changes/locked`
   */
  lock(): void {
    const holder = takeLock(this.#locks, Date.now());
    if (holder) throw new Failure('changes/locked', holder.pid > 0 ? { found: holder.pid } : {});
  }

  /** Says that the lock is still held: to be done every {@link RENEW_MS}. */
  renewLock(): void {
    renewLock(this.#locks, Date.now());
  }

  unlock(): void {
    giveLockBack(this.#locks);
  }

  async read(path: string, start = 0, end = Infinity): Promise<Uint8Array<ArrayBuffer>> {
    const file = await this.open(path);
    try {
      return await file.read(start, Math.min(end, file.size));
    } finally {
      file.close();
    }
  }

  async room(): Promise<{ used: number; free: number }> {
    const { bavail, bsize, blocks } = statfsSync(this.place.store.path);
    return { free: bavail * bsize, used: (blocks - bavail) * bsize };
  }

  async writeWhole(path: string, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    this.#assertOurs(path);
    this.#naming(path, () => this.#writeNow(path, bytes));
  }

  async writeAt(path: string, offset: number, bytes: Uint8Array<ArrayBuffer>): Promise<void> {
    this.#assertOurs(path);
    this.#naming(path, () => {
      const spot = this.#spot(path, true);
      this.#assertWritable(spot);
      spot.folder.assertSame();
      const fd = openSync(spot.folder.placeOf(spot.name), O_WRONLY | O_CREAT | O_NOFOLLOW, 0o666);
      try {
        if (fstatSync(fd).size < offset) ftruncateSync(fd, offset);
        writeAll(fd, bytes, offset);
      } finally {
        closeSync(fd);
      }
    });
  }

  async copy(from: string, to: string): Promise<void> {
    this.#assertOurs(to);
    const target = this.#naming(to, () => this.#spot(to, true));
    await this.#copyInto(from, target, target.name);
  }

  /** Copies a file into a new one of a name in the folder of a place, over what an earlier try has left there. */
  async #copyInto(from: string, { folder, path: to }: Spot, name: string): Promise<void> {
    const fd = this.descriptor(from);
    try {
      const fresh = this.#naming(to, () =>
        openNew(folder, name, () => this.#assertWritable({ folder, name, path: to })),
      );
      try {
        // Both files are open, and nothing but these two is touched: others go on meanwhile.
        if (this.place.store.fd === undefined) copyBytes(fd, fresh);
        else await copyFile(`/proc/self/fd/${fd}`, `/proc/self/fd/${fresh}`, COPYFILE_FICLONE);
        const { atimeMs, mtimeMs } = fstatSync(fd);
        futimesSync(fresh, atimeMs / 1000, mtimeMs / 1000);
      } catch (error) {
        throw fileFailure(error, to);
      } finally {
        closeSync(fresh);
      }
    } finally {
      closeSync(fd);
    }
  }

  async sync(paths: readonly string[]): Promise<void> {
    if (paths.length > SYNCED_ONE_BY_ONE && process.platform === 'linux') {
      // One call for the file system: of thousands of files one by one would take longer than to write them.
      const { status } = spawnSync('sync', ['-f', this.place.store.path, this.gamePath], { stdio: 'ignore' });
      if (status === 0) return;
    }
    for (const path of paths) this.#naming(path, () => this.#syncOne(path));
  }

  #syncOne(path: string): void {
    const { folder, name } = this.#spot(path);
    const fd = folder.openFile(name);
    try {
      fsyncSync(fd);
    } finally {
      closeSync(fd);
    }
    this.#syncFolder(folder);
  }

  /** That a name is there lasts only once its folder is written down; Windows knows no such call. */
  #syncFolder(folder: OpenFolder): void {
    if (process.platform === 'win32') return;
    const fd = openSync(folder.placeOf('.'), constants.O_RDONLY);
    try {
      fsyncSync(fd);
    } finally {
      closeSync(fd);
    }
  }

  async move(from: string, to: string): Promise<void> {
    this.#assertOurs(from, to);
    if (this.#naming(from, () => this.#moveNow(from, to))) return;
    // To another volume it is a copy that lasts, and then a removal: never is there no whole file, nor half of one in its place.
    await this.#copyInto(
      from,
      this.#naming(to, () => this.#spot(to, true)),
      FRESH,
    );
    this.#naming(to, () => {
      this.#putInPlace(this.#spot(to));
      this.#syncOne(to);
    });
    this.#naming(from, () => this.#removeAt(from));
  }

  /** Whether the game's folder and the store lie on one volume: only there can whole folders be swapped. */
  get isOneVolume(): boolean {
    return statSync(this.gamePath).dev === statSync(this.place.store.path).dev;
  }

  /** @returns false where the two lie on different volumes: nothing is moved then */
  #moveNow(from: string, to: string): boolean {
    const target = this.#spot(to, true);
    const source = this.#spot(from);
    this.#assertWritable(source);
    this.#assertWritable(target);
    source.folder.assertSame();
    target.folder.assertSame();
    try {
      renameSync(source.folder.placeOf(source.name), target.folder.placeOf(target.name));
      return true;
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'EXDEV') throw error;
      return false;
    }
  }

  async remove(path: string): Promise<void> {
    this.#assertOurs(path);
    this.#naming(path, () => {
      this.#forget();
      if (path === '') {
        for (const { name } of this.#entriesOf('')) this.#removeAt(name);
      } else this.#removeAt(path);
      this.#forget();
    });
  }

  #entriesOf(path: string): { name: string; isFolder: boolean }[] {
    const { root, path: real } = this.placeOf(path);
    let folder: OpenFolder;
    try {
      folder = openFolderBelow(root, real);
    } catch (error) {
      if (isMissing(error)) return [];
      throw error;
    }
    try {
      return folder.entries().map((entry) => ({ name: entry.name, isFolder: entry.isDirectory() }));
    } finally {
      folder.close();
    }
  }

  #removeAt(path: string): void {
    const there = this.#spotIfThere(path);
    if (!there) return;
    if (there.is.isDirectory()) {
      for (const { name } of this.#entriesOf(path)) this.#removeAt(join(path, name));
      this.#forget();
      const { folder, name } = this.#spot(path);
      folder.assertSame();
      rmdirSync(folder.placeOf(name));
    } else {
      // What is not a file, such as a link, goes as what it is; nothing is followed.
      if (there.is.isFile()) this.#assertWritable(there.spot);
      const { folder, name } = this.#spot(path);
      folder.assertSame();
      unlinkSync(folder.placeOf(name));
    }
  }

  async setReadOnly(path: string, readOnly: boolean): Promise<void> {
    this.#assertOurs(path);
    this.#naming(path, () => {
      const { folder, name } = this.#spot(path);
      withFileIn(folder, name, (fd) => {
        const { mode } = fstatSync(fd);
        fchmodSync(fd, readOnly ? mode & ~WRITABLE : mode | (0o200 & WRITABLE));
      });
    });
  }

  async setModified(path: string, modified: number): Promise<void> {
    this.#assertOurs(path);
    this.#naming(path, () => {
      const { folder, name } = this.#spot(path);
      folder.assertSame();
      const fd = openSync(folder.placeOf(name), O_WRONLY | O_NOFOLLOW);
      try {
        futimesSync(fd, fstatSync(fd).atimeMs / 1000, modified / 1000);
      } finally {
        closeSync(fd);
      }
    });
  }

  async isReadOnly(path: string): Promise<boolean> {
    const is = this.#naming(path, () => this.#spotIfThere(path)?.is);
    return is !== undefined && is.isFile() && (is.mode & WRITABLE) === 0;
  }

  /** Ends an exchange of folders first that was cut off: only who has the disk alone may ask. */
  async current(): Promise<string> {
    this.#endExchange();
    return this.#current;
  }

  /**
   * The game's folder itself stays where it is, since others know it by that: what lies in it is moved out, one name at
   * its top after the other, and what lies in the other tree is moved in.
   */
  async exchange(from: string, to: string): Promise<void> {
    this.#endExchange();
    if (this.#current === to) return;
    if (this.#current !== from) throw new Failure('changes/superseded', { found: this.#current, expected: from });
    this.#assertNoOtherStore(`trees/${from}`);
    this.#naming('', () => this.#writeJson(EXCHANGE, { from, to, phase: 'out' } satisfies Exchange));
    this.#endExchange();
  }

  /** What is swapped moves whole: the store of another game in it would be torn from its game. */
  #assertNoOtherStore(path: string): void {
    for (const { name, isFolder } of this.#entriesOf(path)) {
      if (!isFolder || (name === STORE_FOLDER && path === `trees/${this.#current}`)) continue;
      if (name === STORE_FOLDER) throw new Failure('folder/has-store', { path: join(path, name) });
      this.#assertNoOtherStore(join(path, name));
    }
  }

  #endExchange(): void {
    const under = this.#naming(EXCHANGE, () => this.#readJson(EXCHANGE, ExchangeSchema));
    if (!under) return;
    const { from, to, phase } = under;
    const [game, old, fresh] = [`trees/${this.#current}`, `trees/${from}`, `trees/${to}`];
    if (this.#current === from) {
      // For as long as the game's folder is `from`, the store's place of that tree has no name: it gets one of its own.
      const out = `${PLACES.leaving}/${from}`;
      if (phase === 'out') {
        this.#moveAll(game, out);
        this.#naming(EXCHANGE, () => this.#writeJson(EXCHANGE, { from, to, phase: 'in' } satisfies Exchange));
      }
      this.#moveAll(fresh, game);
      this.#removeEmpty(fresh);
      this.#naming(CURRENT, () => this.#writeJson(CURRENT, { tree: to }));
      this.#forget();
      this.#current = to;
    }
    this.#moveAll(`${PLACES.leaving}/${from}`, old);
    this.#removeEmpty(PLACES.leaving);
    this.#naming(EXCHANGE, () => this.#removeAt(EXCHANGE));
    this.#forget();
  }

  #removeEmpty(path: string): void {
    const isEmpty = (at: string): boolean =>
      this.#entriesOf(at).every(({ name, isFolder }) => isFolder && isEmpty(join(at, name)));
    if (isEmpty(path)) this.#naming(path, () => this.#removeAt(path));
  }

  /** Moves all that lies in a folder into another one; a folder that is there already takes in what the other one has. */
  #moveAll(from: string, to: string): void {
    for (const { name, isFolder } of this.#entriesOf(from)) {
      if (name === STORE_FOLDER) continue;
      const [source, target] = [join(from, name), join(to, name)];
      this.#naming(source, () => {
        const there = this.#spotIfThere(target);
        if (!there) {
          const [out, into] = [this.#spot(source), this.#spot(target, true)];
          renameSync(out.folder.placeOf(out.name), into.folder.placeOf(into.name));
          this.#forget();
        } else if (isFolder && there.is.isDirectory()) this.#moveAll(source, target);
        else throw new Failure('folder/changed-meanwhile', { path: source });
      });
    }
  }
}
