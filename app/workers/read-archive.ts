import { BlobReader, configure, type FileEntry, ZipReader } from '@zip.js/zip.js';
import wasm from 'libarchive-wasm/dist/libarchive.wasm?url';
import { createTarDecoder } from 'modern-tar';
import { type ArchiveEntry, archiveKind, EntryGuard, HEAD_BYTES, isPartOfArchive, rarChain } from '#core/archives';
import { assertGoing, inLanes } from '#core/calls';
import { Failure, isFailure } from '#core/failure';
import type { FolderReader } from '#core/folders';
import { request } from '~/remote';
import { pieceSink } from './piece-sink';
import type { FolderAsArchive } from './protocol';

// This runs in a worker already, and reads what is compressed by what the platform has.
configure({ useWebWorkers: false });

/** Takes the bytes of a file piece by piece, as {@link pieceSink} hands them out. */
export type TakePiece = (piece: Uint8Array<ArrayBuffer>, at: number) => Promise<void>;

/** What is done with a file of an archive; nothing is read of one without. */
export type Visit = (
  path: string,
  entry: ArchiveEntry,
) => Promise<{ readonly take: TakePiece; readonly done: () => Promise<void> } | undefined>;

/** Bytes of an archive that is unpacked in memory, at the most: it is read whole, and what unpacks it has room beside. */
const MOST_IN_MEMORY = 512e6;
/** Bytes that come out of such a one at a time. */
const AT_ONCE = 1 << 20;

/** Files of a ZIP archive that are read at a time. */
const ZIP_LANES = 3;

interface Reading {
  readonly file: Pick<File, 'name'>;
  readonly guard: EntryGuard;
  readonly visit: Visit;
  readonly signal: AbortSignal;
}

interface ArchiveReading extends Reading {
  readonly file: File;
}

/** What reading came to: where it is no failure yet, what reads says that it is encrypted, or cannot go on. */
function damaged({ file: { name } }: Reading, cause: unknown, path?: string): Failure {
  if (isFailure(cause)) return cause;
  const isSecret = cause instanceof Error && /passphrase|encrypt/i.test(cause.message);
  return new Failure(isSecret ? 'archive/encrypted' : 'archive/damaged', { file: name, path }, { cause });
}

/** Writes what a file has into what takes it. @throws Failure `archive/damaged` with its path */
async function pass(
  reading: Reading,
  path: string,
  entry: ArchiveEntry,
  write: (sink: WritableStream<Uint8Array>) => Promise<unknown>,
): Promise<boolean> {
  const visited = await reading.visit(path, entry);
  if (!visited) return false;
  const { guard } = reading;
  const take: TakePiece = async (piece, at) => {
    assertGoing(reading.signal);
    // What was not told before counts now.
    if (entry.size === undefined) guard.grow(piece.length);
    await visited.take(piece, at);
  };
  try {
    await write(pieceSink(entry.size ?? Infinity, take));
  } catch (error) {
    throw damaged(reading, error, path);
  }
  await visited.done();
  return true;
}

async function readZip(reading: ArchiveReading): Promise<void> {
  const { file, guard } = reading;
  const zip = new ZipReader(new BlobReader(file));
  try {
    const files: [path: string, entry: ArchiveEntry, packed: FileEntry][] = [];
    // All of them are held to what they may be before the first is unpacked.
    for await (const packed of zip.getEntriesGenerator()) {
      assertGoing(reading.signal);
      const entry: ArchiveEntry = {
        ...{ path: packed.filename, size: packed.uncompressedSize, isEncrypted: packed.encrypted },
        ...{
          is: packed.directory ? 'folder' : packed.symlink ? 'link' : 'file',
          modified: packed.lastModDate.getTime(),
        },
      };
      const path = guard.path(entry);
      if (path !== undefined && !packed.directory) files.push([path, entry, packed]);
    }
    // One is unpacked while another one is hashed.
    const gate = (): void => assertGoing(reading.signal);
    await inLanes(files, ZIP_LANES, { gate }, async ([path, entry, packed]) => {
      await pass(reading, path, entry, (sink) => packed.getData(sink, { checkSignature: true }));
    });
  } finally {
    await zip.close();
  }
}

const TAR_KINDS: Readonly<Record<string, ArchiveEntry['is']>> = {
  file: 'file',
  directory: 'folder',
  link: 'link',
  symlink: 'link',
};

async function readTar(reading: Reading, stream: ReadableStream<Uint8Array<ArrayBuffer>>): Promise<void> {
  const { guard } = reading;
  const entries = stream.pipeThrough(createTarDecoder({ strict: true }));
  for await (const { header, body } of entries) {
    assertGoing(reading.signal);
    const { name, size, type = 'file', mtime } = header;
    const isFolder = type === 'directory' || name.endsWith('/');
    const entry: ArchiveEntry = {
      ...{ path: name, size, is: isFolder ? 'folder' : (TAR_KINDS[type] ?? 'other'), isEncrypted: false },
      modified: mtime?.getTime() ?? 0,
    };
    const path = guard.path(entry);
    const isRead = path !== undefined && (await pass(reading, path, entry, (sink) => body.pipeTo(sink)));
    // The next one comes only once this one has gone by.
    if (!isRead) await body.pipeTo(new WritableStream());
  }
}

async function readGzip(reading: ArchiveReading): Promise<void> {
  const unpacked = (): ReadableStream<Uint8Array<ArrayBuffer>> =>
    reading.file.stream().pipeThrough(new DecompressionStream('gzip'));
  const head = unpacked().getReader();
  const { value } = await head.read();
  void head.cancel();
  if (value === undefined || archiveKind(value) !== 'tar')
    throw new Failure('archive/unknown-kind', { file: reading.file.name });
  await readTar(reading, unpacked());
}

const CHAIN_FAILURES = {
  'cut-off': 'archive/damaged',
  'in-parts': 'archive/in-parts',
  encrypted: 'archive/encrypted',
} as const;

async function readInMemory(reading: ArchiveReading): Promise<void> {
  const { file, guard } = reading;
  if (file.size > MOST_IN_MEMORY)
    throw new Failure('archive/too-large-to-read', { file: file.name, limit: MOST_IN_MEMORY });
  const bytes = new Uint8Array(await file.arrayBuffer());
  const chain = archiveKind(bytes.subarray(0, HEAD_BYTES)) === 'rar' ? rarChain(bytes) : 'whole';
  if (chain !== 'whole') throw new Failure(CHAIN_FAILURES[chain], { file: file.name });
  const { openPacked } = await import('./libarchive');
  const archive = await openPacked(bytes, await (await request(wasm)).arrayBuffer());
  try {
    for (let entry = archive.next(); entry; entry = archive.next()) {
      assertGoing(reading.signal);
      const path = guard.path(entry);
      if (path === undefined) continue;
      await pass(reading, path, entry, async (sink) => {
        const writer = sink.getWriter();
        for (let some = archive.read(AT_ONCE); some.length > 0; some = archive.read(AT_ONCE)) await writer.write(some);
        await writer.close();
      });
    }
  } finally {
    archive.close();
  }
}

/**
 * Goes through the files of an archive: ZIP and tar as streams, others in memory. Each entry is held to what it may be before it is
 * read; in a ZIP all of them are before the first is.
 * @throws Failure `archive/*`, `path/*`, `job/cancelled`, and what a visit throws
 */
export async function readArchive(file: File, visit: Visit, signal: AbortSignal): Promise<void> {
  const kind = archiveKind(new Uint8Array(await file.slice(0, HEAD_BYTES).arrayBuffer()));
  if (isPartOfArchive(file.name)) throw new Failure('archive/in-parts', { file: file.name });
  const reading: ArchiveReading = { file, guard: new EntryGuard(file.name, file.size), visit, signal };
  try {
    switch (kind) {
      case 'zip':
        return await readZip(reading);
      case 'tar':
        return await readTar(reading, file.stream());
      case 'tar.gz':
        return await readGzip(reading);
      case '7z':
      case 'rar':
      case 'packed':
        return await readInMemory(reading);
      case undefined:
        throw new Failure('archive/unknown-kind', { file: file.name });
    }
  } catch (error) {
    throw damaged(reading, error);
  }
}

/**
 * Goes through the files of a folder as {@link readArchive} does through those of an archive; each is held to the same limits.
 * @throws Failure `archive/*`, `path/*`, `folder/*`, `job/cancelled`, and what a visit throws
 */
export async function readFolder(
  { root, name }: FolderAsArchive,
  reader: Pick<FolderReader, 'list' | 'open'>,
  visit: Visit,
  signal: AbortSignal,
): Promise<void> {
  const found = await reader.list(root);
  const guard = new EntryGuard(
    name,
    found.reduce((sum, { size }) => sum + size, 0),
  );
  const reading: Reading = { file: { name }, guard, visit, signal };
  const above = root === '' ? 0 : root.length + 1;
  for (const { path: there, size, modified } of found) {
    assertGoing(signal);
    const entry: ArchiveEntry = { path: there.slice(above), size, modified, is: 'file', isEncrypted: false };
    const path = guard.path(entry);
    if (path === undefined) continue;
    const file = await reader.open(there, size);
    try {
      await pass(reading, path, { ...entry, size: file.size }, async (sink) => {
        const writer = sink.getWriter();
        for (let at = 0; at < file.size; at += AT_ONCE) {
          const bytes = await file.read(at, Math.min(file.size, at + AT_ONCE));
          if (bytes.length === 0) throw new Failure('folder/changed-meanwhile', { path: there });
          await writer.write(bytes);
        }
        await writer.close();
      });
    } finally {
      file.close();
    }
  }
}
