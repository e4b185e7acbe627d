import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256 as wholeSha256, sha512 } from '@noble/hashes/sha2.js';
import { BlobReader, configure, type FileEntry, TextWriter, ZipReader } from '@zip.js/zip.js';
import { assertGoing } from '#core/calls';
import type { ArrivalFolder } from '#core/contents';
import { toHex } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { BAG_PAYLOAD, BAG_SUMS, bagChecksums, bagRoot, type BagSum, readBag } from '#core/keepsakes';
import { isBelow } from '#core/paths';
import { arrivalSink } from './arrival-sink';
import type { BagPorts } from './bag-task';
import { KeyOfPieces, pieceSink } from './piece-sink';
import type { BagFile, DiskResults, LookIntoBagTask, UnpackTask } from './protocol';

// This runs in a worker already, and reads what is compressed by what the platform has.
configure({ useWebWorkers: false });

const HASHES = { sha512, sha256: wholeSha256, sha1, md5 } as const satisfies Record<BagSum, unknown>;

/** Bytes of a manifest, or of a text that a program left, at the most. */
const MOST_TEXT = 64 << 20;

const bad = (file: File, what: string): Failure => new Failure('bag/malformed', { file: file.name, what });

/** The files of an archive by their paths. @throws Failure `bag/malformed` */
async function entriesOf(file: File): Promise<Map<string, FileEntry>> {
  const entries = await new ZipReader(new BlobReader(file)).getEntries().catch(() => {
    throw bad(file, 'it is no ZIP archive');
  });
  const all = new Map<string, FileEntry>();
  for (const entry of entries) {
    if (entry.directory) continue;
    if (all.has(entry.filename)) throw bad(file, `it has two files called "${entry.filename}"`);
    if (entry.encrypted) throw bad(file, `"${entry.filename}" is encrypted`);
    all.set(entry.filename, entry);
  }
  return all;
}

async function textOf(file: File, entry: FileEntry): Promise<string> {
  if (entry.uncompressedSize > MOST_TEXT) throw bad(file, `"${entry.filename}" is too long`);
  return entry.getData(new TextWriter());
}

/** The files of an archive that is a bag, by their paths below it. @throws Failure `bag/malformed` */
export async function bagOf(file: File): Promise<Map<string, FileEntry>> {
  const entries = await entriesOf(file);
  const root = bagRoot(file.name, entries.keys());
  return new Map(
    [...entries].flatMap(([path, entry]) => (path.startsWith(root) ? [[path.slice(root.length), entry] as const] : [])),
  );
}

/** Reads a file of an archive piece by piece. @throws Failure `bag/malformed` where it cannot be unpacked */
async function unpackEntry(
  file: File,
  entry: FileEntry,
  take: (piece: Uint8Array<ArrayBuffer>, at: number) => Promise<void>,
): Promise<void> {
  await entry.getData(pieceSink(entry.uncompressedSize, take)).catch((error: unknown) => {
    throw isFailure(error) ? error : bad(file, `"${entry.filename}" cannot be unpacked`);
  });
}

/**
 * Holds what stands beside a bag's payload, its manifests among it, against its strongest tag manifest, where it has one
 * (RFC 8493, section 2.2.1).
 * @throws Failure `bag/malformed`
 */
export async function assertTags(file: File, entries: ReadonlyMap<string, FileEntry>): Promise<void> {
  const sum = BAG_SUMS.find((one) => entries.has(`tagmanifest-${one}.txt`));
  if (!sum) return;
  for (const [path, hex] of bagChecksums(await textOf(file, entries.get(`tagmanifest-${sum}.txt`)!))) {
    const entry = entries.get(path);
    if (!entry || isBelow(path, BAG_PAYLOAD))
      throw bad(file, `its tag manifest lists "${path}", which is no tag of it`);
    const hash = HASHES[sum].create();
    await unpackEntry(file, entry, async (piece) => void hash.update(piece));
    if (toHex(hash.digest()) !== hex)
      throw bad(file, `"${path}" is damaged: its checksum is not the one in its tag manifest`);
  }
}

/**
 * Checks every file of an archive in BagIt form against its manifest, and tells its bytes as the store knows them.
 * @throws Failure `bag/malformed`, `path/*`, `job/cancelled`
 */
export async function lookIntoBag(
  { from, texts: wanted }: LookIntoBagTask,
  { sha256, progress, signal }: BagPorts,
): Promise<DiskResults['look-into-bag']> {
  const entries = await bagOf(from);
  await assertTags(from, entries);
  const manifests = new Map<BagSum, string>();
  for (const sum of BAG_SUMS) {
    const entry = entries.get(`manifest-${sum}.txt`);
    if (entry) manifests.set(sum, await textOf(from, entry));
  }
  const { sum, files } = readBag(from.name, entries.keys(), manifests);
  const found: BagFile[] = [];
  for (const { path, hex } of files) {
    assertGoing(signal);
    const entry = entries.get(`${BAG_PAYLOAD}/${path}`)!;
    const [hash, key] = [HASHES[sum].create(), new KeyOfPieces(sha256)];
    await unpackEntry(from, entry, async (piece) => {
      hash.update(piece);
      await key.add(piece);
    });
    if (toHex(hash.digest()) !== hex)
      throw bad(from, `"${path}" is damaged: its checksum is not the one in its manifest`);
    found.push({ path, key: await key.key(), modified: entry.lastModDate.getTime() });
    progress({ kind: 'bytes', files: 1, bytes: entry.uncompressedSize });
  }
  const beside = [...entries].filter(([path]) => !path.startsWith(`${BAG_PAYLOAD}/`) && path.endsWith('.json'));
  const tags = await Promise.all(beside.map(async ([path, entry]) => [path, await textOf(from, entry)] as const));
  const texts = await Promise.all(
    files
      .filter(({ path }) => wanted?.test(path))
      .map(async ({ path }) => [path, await textOf(from, entries.get(`${BAG_PAYLOAD}/${path}`)!)] as const),
  );
  return { files: found, tags, texts };
}

/**
 * Takes files of an archive into a store, each once its bytes are what they were said to be.
 * @throws Failure `bag/malformed`, `folder/*`, `job/cancelled`
 */
export async function unpackBag(
  { from, files }: UnpackTask,
  { sha256, progress, signal, to }: BagPorts & { readonly to: ArrivalFolder },
): Promise<void> {
  const entries = await bagOf(from);
  for (const { path, key } of files) {
    assertGoing(signal);
    const entry = entries.get(`${BAG_PAYLOAD}/${path}`);
    if (!entry) throw bad(from, `"${path}" is missing`);
    const sink = await arrivalSink(key, { sha256, to });
    await unpackEntry(from, entry, sink.take);
    if (!(await sink.done())) throw bad(from, `"${path}" is not as it was a moment ago`);
    progress({ kind: 'bytes', files: 1, bytes: entry.uncompressedSize });
  }
}
