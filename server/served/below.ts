import {
  closeSync,
  constants,
  type Dirent,
  fstatSync,
  lstatSync,
  mkdirSync,
  openSync,
  readdirSync,
  realpathSync,
  type Stats,
} from 'node:fs';
import { join } from 'node:path';
import { Failure, type FailureCode, isFailure } from '#core/failure';

/*
 * Opens what lies below a root, and never what a link leads to, whoever exchanges folders and files for links meanwhile.
 * Synchronous throughout: it runs in threads that do nothing else, where that is half again as fast as promises.
 */

/** A root as it was at the start; it is this very folder that is served, whatever takes its place later. */
export interface HeldRoot {
  /** The real path. */
  readonly path: string;
  /** An open descriptor, valid in all threads of the process; undefined where the platform opens no folders. */
  readonly fd: number | undefined;
  readonly dev: number;
  readonly ino: number;
}

/**
 * How a path is opened without following links: by walking through opened folders, or by opening it and proving afterwards
 * that it is what its path says. The second leaves a window in which a link may be opened, but never read from.
 */
export type Opening = 'walk' | 'prove';

/** Linux alone lets a program without `openat` name what lies in an opened folder. */
export const OPENING: Opening = process.platform === 'linux' ? 'walk' : 'prove';

const { O_RDONLY, O_DIRECTORY = 0, O_NOFOLLOW = 0, O_NONBLOCK = 0 } = constants;
/** Without waiting for the other end of a pipe. */
const FILE_FLAGS = O_RDONLY | O_NOFOLLOW | O_NONBLOCK;
const FOLDER_FLAGS = O_RDONLY | O_DIRECTORY | O_NOFOLLOW | O_NONBLOCK;

const CODES: Readonly<Record<string, FailureCode>> = {
  ENOENT: 'folder/not-found',
  ENOTDIR: 'folder/not-found',
  ENAMETOOLONG: 'folder/not-found',
  EACCES: 'folder/no-permission',
  EPERM: 'folder/no-permission',
  ELOOP: 'served/outside',
  ENOSPC: 'folder/full',
  EDQUOT: 'folder/full',
  EROFS: 'folder/no-permission',
  EBUSY: 'folder/in-use',
  ETXTBSY: 'folder/in-use',
};

/** An error of the file system as a failure that names the path below the root. */
export function fileFailure(cause: unknown, path: string): Failure {
  if (isFailure(cause)) return cause;
  const { code = '', message } = cause as NodeJS.ErrnoException;
  return new Failure(CODES[code] ?? 'folder/failed', { path, message: CODES[code] ? undefined : message }, { cause });
}

/** Runs `work` on an open descriptor, which is closed in the end unless `work` hands it out. */
function withOpen<T>(fd: number, work: (fd: number) => T): T {
  try {
    return work(fd);
  } finally {
    closeSync(fd);
  }
}

/** Takes hold of a root. @throws what the file system throws where it is not there */
export function holdRoot(path: string, opening = OPENING): HeldRoot {
  const real = realpathSync(path);
  const fd = opening === 'walk' ? openSync(real, FOLDER_FLAGS) : undefined;
  const { dev, ino } = fd === undefined ? lstatSync(real) : fstatSync(fd);
  return { path: real, fd, dev, ino };
}

/** @throws Failure `served/root-replaced` where another folder, or a link, lies where the root was */
export function assertRootInPlace(root: HeldRoot): void {
  let now: Stats | undefined;
  try {
    now = lstatSync(root.path);
  } catch {
    // Gone is replaced by nothing.
  }
  if (!now?.isDirectory() || now.dev !== root.dev || now.ino !== root.ino) {
    throw new Failure('served/root-replaced', { path: root.path });
  }
}

/**
 * The parts of a path below a root; none for the root itself.
 * @param path `/` between its parts
 * @throws Failure `served/outside` for what leads out or cannot be part of a path
 */
export function partsBelow(path: string): string[] {
  const parts = path === '' ? [] : path.split('/');

  const isBad = (part: string): boolean => part === '' || part === '.' || part === '..' || /[\0\\]/.test(part);
  if (parts.some(isBad)) throw new Failure('served/outside', { path });
  return parts;
}

/** The name of something in a folder that is open. */
const inside = (folder: number, name: string): string => `/proc/self/fd/${folder}/${name}`;

function openFolderIn(folder: number, name: string, path: string): number {
  try {
    return openSync(inside(folder, name), FOLDER_FLAGS);
  } catch (error) {
    throw linkOr(error, inside(folder, name), path);
  }
}

/** What could not be opened as a folder may be a link, which is another matter than nothing being there. */
function linkOr(error: unknown, place: string, path: string): Failure {
  const isLink = lstatSync(place, { throwIfNoEntry: false })?.isSymbolicLink();
  return isLink ? new Failure('served/outside', { path }, { cause: error }) : fileFailure(error, path);
}

/** Opens what is a plain file before and after it is opened: to open a pipe or a device may do something. */
function openPlain(place: string, path: string): number {
  const before = lstatSync(place);
  if (before.isSymbolicLink()) throw new Failure('served/outside', { path });
  if (before.isDirectory()) throw new Failure('folder/not-found', { path });
  if (!before.isFile()) throw new Failure('folder/not-a-file', { path });
  const fd = openSync(place, FILE_FLAGS);
  if (fstatSync(fd).isFile()) return fd;
  closeSync(fd);
  throw new Failure('folder/not-a-file', { path });
}

/** Whether two paths are one, on systems that keep another spelling of a name than one asks for. */
const sameSpelling = (a: string, b: string): boolean =>
  a === b || a.normalize('NFC').toLowerCase() === b.normalize('NFC').toLowerCase();

/**
 * Between asking for the real path and for what lies there, a folder may become a link and a folder again: seen once in
 * twenty thousand openings where a program did nothing else. It has to hit each of these times just so.
 */
const PROOFS = 3;

/** @throws Failure `served/outside` where a path, or what was opened by it, is not what the path says */
function prove(place: string, opened: Stats, path: string): void {
  for (let i = 0; i < PROOFS; i++) proveOnce(place, opened, path);
}

function proveOnce(place: string, opened: Stats, path: string): void {
  const outside = new Failure('served/outside', { path });
  let real: string;
  let is: Stats;
  try {
    real = realpathSync(place);
    is = lstatSync(real);
  } catch (cause) {
    throw new Failure('folder/not-found', { path }, { cause });
  }
  if (!sameSpelling(real, place)) throw outside;
  if (is.isSymbolicLink() || is.dev !== opened.dev || is.ino !== opened.ino) throw outside;
}

/** A folder below a root while its files are looked at. */
export interface OpenFolder {
  /** Opens a file of it. @returns a descriptor, which the caller closes @throws Failure `folder/*`, `served/outside` */
  openFile(name: string): number;
  /** @throws Failure `folder/*`, `served/outside` */
  openFolder(name: string): OpenFolder;
  /** What is in it, with links as links. */
  entries(): Dirent[];
  /** Of a file of it, without following links. */
  stat(name: string): Stats;
  /** Opens a folder of it, made where nothing lies. @throws Failure `folder/*`, `served/outside` */
  makeFolder(name: string): OpenFolder;
  /** What the file system is asked by for something in it; only the last part of it may be a link. */
  placeOf(name: string): string;
  /** @throws Failure `served/outside` where it is not what was opened any more; for what changes something in it */
  assertSame(): void;
  close(): void;
}

function makeIfMissing(place: string, path: string): void {
  try {
    mkdirSync(place);
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'EEXIST') throw fileFailure(error, path);
  }
}

function walkedFolder(fd: number, path: string, isOwn: boolean): OpenFolder {
  const below = (name: string): string => (path === '' ? name : `${path}/${name}`);
  return {
    openFile(name) {
      try {
        return openPlain(inside(fd, name), below(name));
      } catch (error) {
        throw fileFailure(error, below(name));
      }
    },
    openFolder: (name) => walkedFolder(openFolderIn(fd, name, below(name)), below(name), true),
    entries: () => readdirSync(inside(fd, ''), { withFileTypes: true }),
    stat: (name) => lstatSync(inside(fd, name)),
    makeFolder(name) {
      makeIfMissing(inside(fd, name), below(name));
      return walkedFolder(openFolderIn(fd, name, below(name)), below(name), true);
    },
    placeOf: (name) => inside(fd, name),
    assertSame: () => undefined,
    close: () => isOwn && closeSync(fd),
  };
}

function provenFolder(place: string, path: string): OpenFolder {
  const below = (name: string): string => (path === '' ? name : `${path}/${name}`);
  const proven = (): void => {
    const is = lstatSync(place);
    if (is.isSymbolicLink()) throw new Failure('served/outside', { path });
    if (!is.isDirectory()) throw new Failure('folder/not-found', { path });
    prove(place, is, path);
  };
  try {
    proven();
  } catch (error) {
    throw fileFailure(error, path);
  }
  return {
    openFile(name) {
      const at = join(place, name);
      try {
        const fd = openPlain(at, below(name));
        try {
          prove(at, fstatSync(fd), below(name));
        } catch (error) {
          closeSync(fd);
          throw error;
        }
        return fd;
      } catch (error) {
        throw fileFailure(error, below(name));
      }
    },
    openFolder: (name) => provenFolder(join(place, name), below(name)),
    entries() {
      const entries = readdirSync(place, { withFileTypes: true });
      // What was read is this folder's only where it still is this folder.
      proven();
      return entries;
    },
    stat: (name) => lstatSync(join(place, name)),
    makeFolder(name) {
      proven();
      makeIfMissing(join(place, name), below(name));
      return provenFolder(join(place, name), below(name));
    },
    placeOf: (name) => join(place, name),
    assertSame: proven,
    close: () => undefined,
  };
}

/**
 * Opens a folder below a root, to be closed by the caller.
 * @param make where parts of the path are missing
 * @throws Failure `served/outside` where a part of its path is a link or leads out, `served/root-replaced`, `folder/*`
 */
export function openFolderBelow(root: HeldRoot, path: string, make = false): OpenFolder {
  const parts = partsBelow(path);
  assertRootInPlace(root);
  let folder = root.fd === undefined ? provenFolder(root.path, '') : walkedFolder(root.fd, '', false);
  for (const part of parts) {
    const above = folder;
    try {
      folder = make ? above.makeFolder(part) : above.openFolder(part);
    } finally {
      above.close();
    }
  }
  return folder;
}

/** A plain file below a root. @returns a descriptor, which the caller closes @throws Failure as {@link openFolderBelow} */
export function openFileBelow(root: HeldRoot, path: string): number {
  const parts = partsBelow(path);
  const name = parts.pop();
  if (name === undefined) throw new Failure('folder/not-found', { path });
  const folder = openFolderBelow(root, parts.join('/'));
  try {
    return folder.openFile(name);
  } finally {
    folder.close();
  }
}

/** Runs `work` with a file below a root open. @throws Failure as {@link openFileBelow} */
export const withFileIn = <T>(folder: OpenFolder, name: string, work: (fd: number) => T): T =>
  withOpen(folder.openFile(name), work);
