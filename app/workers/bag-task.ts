import { sha256 as wholeSha256 } from '@noble/hashes/sha2.js';
import { configure, TextReader, ZipWriter } from '@zip.js/zip.js';
import { PIECE_SIZE, toHex } from '#core/digest';
import { BAG_PAYLOAD, type BagEntry, bagFiles, type BagInfo } from '#core/keepsakes';
import type { Folder, FolderReader } from '#core/folders';
import { partPath } from '~/folders';
import { assertGoing } from '#core/calls';
import type { DiskPorts } from './arrival-tasks';
import type { BagTask } from './protocol';

// This runs in a worker already, and compresses by what the platform has.
configure({ useWebWorkers: false });

export type BagPorts = Pick<DiskPorts, 'sha256' | 'progress' | 'signal'>;

/** A file as a stream of pieces, each of which is also handed to `seen` on its way. */
function streamOf(reader: Pick<FolderReader, 'open'>, path: string, seen: (bytes: Uint8Array) => void): ReadableStream {
  let file: Awaited<ReturnType<FolderReader['open']>> | undefined;
  let at = 0;
  return new ReadableStream({
    async pull(controller) {
      file ??= await reader.open(path);
      const end = Math.min(file.size, at + PIECE_SIZE);
      if (end > at) {
        const bytes = await file.read(at, end);
        seen(bytes);
        controller.enqueue(bytes);
        at += bytes.length;
        if (bytes.length > 0) return;
      }
      file.close();
      controller.close();
    },
    cancel: () => file?.close(),
  });
}

/** Takes what is written and puts it down a megabyte at a time: each write opens the file. */
function sinkOf({ folder }: { readonly folder: Folder }, path: string): WritableStream<Uint8Array> {
  const buffer = new Uint8Array(PIECE_SIZE);
  let filled = 0;
  let at = 0;
  const put = async (): Promise<void> => {
    if (filled === 0) return;
    await folder.writeAt(path, at, buffer.slice(0, filled));
    at += filled;
    filled = 0;
  };
  return new WritableStream({
    async write(chunk) {
      for (let from = 0; from < chunk.length;) {
        const some = chunk.subarray(from, from + PIECE_SIZE - filled);
        buffer.set(some, filled);
        filled += some.length;
        from += some.length;
        if (filled === PIECE_SIZE) await put();
      }
    },
    close: put,
  });
}

/** A file as it is called in a bag, and where it is read from. */
export type PackedFile = readonly [path: string, reader: Pick<FolderReader, 'open'>, from: string];

/** What a bag is called, and what it says of itself. */
export interface Bag {
  /** Its only folder. */
  readonly name: string;
  readonly info: BagInfo;
  /** Texts in the payload. */
  readonly texts?: BagTask['tags'] | undefined;
  /** Texts beside the payload. */
  readonly tags?: BagTask['tags'];
}

/**
 * Writes a bag: each file is read once; its SHA-256 is that of the bytes that went into the archive.
 * @throws Failure `folder/*`, `job/cancelled`
 */
export async function writeBag(
  sink: WritableStream<Uint8Array>,
  { name, info, texts = [], tags = [] }: Bag,
  files: readonly PackedFile[],
  { sha256, progress, signal }: BagPorts,
): Promise<void> {
  const zip = new ZipWriter(sink, { useCompressionStream: true });
  const entries: BagEntry[] = [];
  for (const [path, reader, from] of files) {
    assertGoing(signal);
    const hash = wholeSha256.create();
    let size = 0;
    const stream = streamOf(reader, from, (bytes) => {
      hash.update(bytes);
      size += bytes.length;
    });
    await zip.add(`${name}/${BAG_PAYLOAD}/${path}`, stream);
    entries.push({ path, size, sha256: toHex(hash.digest()) });
    progress({ kind: 'bytes', files: 1, bytes: size });
  }
  for (const [path, text] of texts) {
    const bytes = new TextEncoder().encode(text);
    await zip.add(`${name}/${BAG_PAYLOAD}/${path}`, new TextReader(text));
    entries.push({ path, size: bytes.length, sha256: await sha256(bytes) });
  }
  for (const [path, text] of await bagFiles(info, entries, sha256, tags))
    await zip.add(`${name}/${path}`, new TextReader(text));
  await zip.close();
}

/**
 * Packs contents of a store into a bag: one ZIP archive in BagIt form, put in place whole.
 * @param from has the contents
 * @throws Failure `folder/*`, `job/cancelled`
 */
export async function packBag(
  { files, to, name, info, texts, tags }: BagTask,
  from: Pick<FolderReader, 'open'>,
  ports: BagPorts & { readonly folder: Folder },
): Promise<{ bytes: number }> {
  const { folder } = ports;
  const part = partPath(to);
  await folder.remove(part);
  const packed = files.map(([as, content]): PackedFile => [as, from, content]);
  await writeBag(sinkOf(ports, part), { name, info, texts, tags }, packed, ports);
  await folder.move(part, to);
  return { bytes: (await folder.stat(to))!.size };
}
