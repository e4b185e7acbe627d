import { sha256 as wholeSha256 } from '@noble/hashes/sha2.js';
import { configure, type FileEntry, TextWriter } from '@zip.js/zip.js';
import { toHex } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import type { Folder } from '#core/folders';
import { BAG_PAYLOAD, readBag } from '#core/keepsakes';
import { isBelow } from '#core/paths';
import { assertGoing, inLanes } from '#core/calls';
import { type BagPorts, type PackedFile, writeBag } from './bag-task';
import { pieceSink } from './piece-sink';
import type { BackupTask, RestoreTask } from './protocol';
import { assertTags, bagOf } from './unbag-task';

// This runs in a worker already, and reads what is compressed by what the platform has.
configure({ useWebWorkers: false });

/** The records of the browser's store, in a backup. */
const RECORDS = 'records.json';
/** Folders of the browser disk that a backup has whole. */
const ROOTS = ['installs', 'store'] as const;

interface BackupPorts extends BagPorts {
  /** A folder of the browser disk. */
  diskAt(root: string): Folder;
}

/** One text as a file that can be packed. */
const textFile = (text: string): Pick<Folder, 'open'> => {
  const bytes = new TextEncoder().encode(text);
  return {
    open: async () => ({ size: bytes.length, read: async (from, to) => bytes.slice(from, to), close: () => undefined }),
  };
};

/**
 * Writes all that lies on the browser disk, and the records of the store, into one archive in BagIt form.
 * @throws Failure `folder/*`, `job/cancelled`; the file is left as it was then
 */
export async function backUp(
  { to, name, info, records }: BackupTask,
  ports: BackupPorts,
): Promise<{ files: number; bytes: number }> {
  const files: PackedFile[] = [];
  let bytes = 0;
  const readOnly: string[] = [];
  for (const root of ROOTS) {
    const disk = ports.diskAt(root);
    for (const { path, size } of await disk.list()) {
      files.push([`${root}/${path}`, disk, path]);
      bytes += size;
      if (await disk.isReadOnly(path)) readOnly.push(`${root}/${path}`);
    }
  }
  const text = JSON.stringify({ ...(JSON.parse(records) as object), readOnly });
  const sink = await to.createWritable();
  try {
    await writeBag(sink, { name, info }, [[RECORDS, textFile(text), ''], ...files], ports);
  } catch (error) {
    await sink.abort().catch(() => undefined);
    throw error;
  }
  return { files: files.length, bytes };
}

const bad = (file: File, what: string): Failure => new Failure('backup/malformed', { file: file.name, what });

/** What an archive has, by paths below its payload, with the SHA-256 that its manifest says. */
async function contentsOf(file: File): Promise<Map<string, { entry: FileEntry; sha256: string }>> {
  try {
    const all = await bagOf(file);
    await assertTags(file, all);
    const list = all.get('manifest-sha256.txt');
    if (!list) throw bad(file, 'it has no list of checksums');
    const { files } = readBag(file.name, all.keys(), new Map([['sha256', await list.getData(new TextWriter())]]));
    return new Map(files.map(({ path, hex }) => [path, { entry: all.get(`${BAG_PAYLOAD}/${path}`)!, sha256: hex }]));
  } catch (error) {
    throw isFailure(error, 'bag/malformed') ? bad(file, error.facts.what) : error;
  }
}

/** Bytes that the records have at the most. */
const MOST_RECORDS = 1 << 30;

/** Writes what comes to a path of a disk, a megabyte at a time, and works out its SHA-256. */
function hashingSink(disk: Folder, path: string, most: number): { sink: WritableStream<Uint8Array>; digest(): string } {
  const hash = wholeSha256.create();
  const sink = pieceSink(most, async (piece, at) => {
    hash.update(piece);
    await disk.writeAt(path, at, piece);
  });
  return { sink, digest: () => toHex(hash.digest()) };
}

/** Files at once: with small ones it is the disk's answers that take the time, not the bytes. */
const LANES = 8;

/** The file of a backup on the disk while it is being written, so that one that was cut off is never taken for whole. */
const partOf = (path: string): string => `${path}.restoring`;

/**
 * Reads a backup. With `installs` its files are laid on the browser disk where none lies, each whole and as its checksum
 * says, or not at all; what is there already stays.
 * @returns the records, for whoever stores them, and what of files there is
 * @throws Failure `backup/malformed`, `folder/full`, `job/cancelled`; doing it again goes on
 */
export async function restore(
  { from, installs }: RestoreTask,
  { diskAt, signal, progress }: BackupPorts,
): Promise<{ records: string; files: number; bytes: number }> {
  const contents = await contentsOf(from);
  const said = contents.get(RECORDS);
  if (!said) throw bad(from, `it has no ${RECORDS}`);
  if (said.entry.uncompressedSize > MOST_RECORDS) throw bad(from, `its ${RECORDS} is too long`);
  const records = await said.entry.getData(new TextWriter());
  const isWanted = (path: string): boolean =>
    isBelow(path, 'store') || (installs ?? []).some((id) => isBelow(path, `installs/${id}`));
  const files = [...contents].filter(([path]) => path !== RECORDS);
  const sum = { files: files.length, bytes: files.reduce((all, [, { entry }]) => all + entry.uncompressedSize, 0) };
  if (!installs) return { records, ...sum };
  const wanted = files.filter(([path]) => isWanted(path));
  const room = await diskAt('store').room();
  const bytes = wanted.reduce((all, [, { entry }]) => all + entry.uncompressedSize, 0);
  if (room && bytes > room.free) throw new Failure('folder/full', { path: from.name });
  const readOnly = new Set((JSON.parse(records) as { readOnly?: string[] }).readOnly);
  await inLanes(wanted, LANES, { gate: () => assertGoing(signal) }, async ([path, { entry, sha256 }]) => {
    const [root, below] = [path.slice(0, path.indexOf('/')), path.slice(path.indexOf('/') + 1)];
    const disk = diskAt(root);
    if (!(await disk.stat(below))) {
      const part = partOf(below);
      await disk.remove(part);
      const { sink, digest } = hashingSink(disk, part, entry.uncompressedSize);
      await entry.getData(sink).catch((error: unknown) => {
        throw isFailure(error) ? error : bad(from, `"${path}" cannot be unpacked`);
      });
      if (digest() !== sha256) {
        await disk.remove(part);
        throw bad(from, `"${path}" is damaged`);
      }
      await disk.move(part, below);
      if (readOnly.has(path)) await disk.setReadOnly(below, true);
    }
    progress({ kind: 'bytes', files: 1, bytes: entry.uncompressedSize });
  });
  return { records, ...sum };
}
