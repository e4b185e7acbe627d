import { Failure } from '#core/failure';
import type { ArrivalFolder } from '#core/contents';
import { type ContentKey, keySize } from '#core/digest';
import type { StreamHash } from '#core/fetch';
import type { FolderReader } from '#core/folders';
import type { Place } from '~/folders';
import { arrivalSink } from './arrival-sink';
import type { BagPorts } from './bag-task';
import { KeyOfPieces } from './piece-sink';
import type {
  ArchiveFile,
  DigestInArchiveTask,
  DiskResults,
  FolderAsArchive,
  LookIntoArchiveTask,
  UnpackTask,
} from './protocol';
import { readArchive, readFolder, type Visit } from './read-archive';

/** Bytes of a text that may tell what a mod is, at the most, and how many of them are read. */
const MOST_TEXT = 1 << 16;
const MOST_TEXTS = 500;
/** Files in which mods say what they are. */
const TELLING = /\.(?:json|ini|cfg|toml|ya?ml|xml|info|manifest)$/i;

/** Bytes of a file that are kept to be hashed as a whole by the platform, which takes only what lies in memory at once. */
const MOST_AT_ONCE = 64 << 20;

/** A file's SHA-256 as a whole, of what goes by piece by piece. */
class WholeDigest {
  #pieces: Uint8Array<ArrayBuffer>[] = [];
  #bytes = 0;
  #stream: StreamHash | undefined;

  constructor(private readonly ports: Pick<DigestPorts, 'sha256' | 'newHash'>) {}

  update(piece: Uint8Array<ArrayBuffer>): void {
    this.#bytes += piece.length;
    if (!this.#stream && this.#bytes <= MOST_AT_ONCE) return void this.#pieces.push(piece);
    // What is larger is hashed bit by bit, several times slower.
    if (!this.#stream) {
      this.#stream = this.ports.newHash();
      for (const earlier of this.#pieces.splice(0)) this.#stream.update(earlier);
    }
    this.#stream.update(piece);
  }

  async digest(): Promise<string> {
    if (this.#stream) return this.#stream.digest();
    return this.ports.sha256(new Uint8Array(await new Blob(this.#pieces).arrayBuffer()));
  }
}

type LookPorts = BagPorts & {
  readonly readerOf: (place: Place) => Pick<FolderReader, 'list' | 'open'>;
};
type DigestPorts = LookPorts & {
  /** Makes a SHA-256 of what comes bit by bit. */
  readonly newHash: () => StreamHash;
};

const goThrough = (from: File | FolderAsArchive, visit: Visit, { readerOf, signal }: LookPorts): Promise<void> =>
  from instanceof File ? readArchive(from, visit, signal) : readFolder(from, readerOf(from.place), visit, signal);

/**
 * Reads an archive, or a folder, whole, and tells each file's bytes as the store and a catalogue know them. Nothing is put down.
 * @throws Failure `archive/*`, `path/*`, `folder/*`, `job/cancelled`
 */
export async function lookIntoArchive(
  { from }: LookIntoArchiveTask,
  ports: LookPorts,
): Promise<DiskResults['look-into-archive']> {
  const { sha256, progress } = ports;
  const files: ArchiveFile[] = [];
  const texts: [path: string, text: string][] = [];
  const visit: Visit = async (path, { modified }) => {
    const key = new KeyOfPieces(sha256);
    let bytes = 0;
    let text: Uint8Array | undefined;
    return {
      async take(piece, at) {
        bytes += piece.length;
        if (at === 0 && piece.length <= MOST_TEXT && TELLING.test(path) && texts.length < MOST_TEXTS) text = piece;
        await key.add(piece);
      },
      async done() {
        files.push({ path, key: await key.key(), modified });
        if (text && text.length === bytes) texts.push([path, new TextDecoder().decode(text)]);
        progress({ kind: 'bytes', files: 1, bytes });
      },
    };
  };
  await goThrough(from, visit, ports);
  // They come in no certain order where several are read at a time.
  const byPath = <T>(all: T[], pathOf: (one: T) => string): T[] => all.sort((a, b) => (pathOf(a) < pathOf(b) ? -1 : 1));
  return { files: byPath(files, ({ path }) => path), texts: byPath(texts, ([path]) => path) };
}

/**
 * Works out the SHA-256 of files of an archive, or a folder, each as a whole. It takes a reading of its own: most files that are looked
 * at are known by their pieces, and to hash each twice takes half as long again.
 * @throws Failure `archive/*`, `path/*`, `folder/*`, `job/cancelled`
 */
export async function digestInArchive(
  { from, paths }: DigestInArchiveTask,
  ports: DigestPorts,
): Promise<DiskResults['digest-in-archive']> {
  const wanted = new Set(paths);
  const digests: [path: string, sha256: string][] = [];
  const visit: Visit = async (path) => {
    if (!wanted.has(path)) return undefined;
    const whole = new WholeDigest(ports);
    return {
      take: async (piece) => whole.update(piece),
      done: async () => void digests.push([path, await whole.digest()]),
    };
  };
  await goThrough(from, visit, ports);
  return { digests };
}

/**
 * Takes files of an archive into a store, each once its bytes are what they were said to be; of two with one content the first.
 * @throws Failure `archive/*`, `folder/*`, `job/cancelled`
 */
export async function unpackArchive(
  { from, files }: UnpackTask,
  { sha256, progress, signal, to }: BagPorts & { readonly to: ArrivalFolder },
): Promise<void> {
  const wanted = new Map<string, ContentKey>(files.map(({ path, key }) => [path, key]));
  const visit: Visit = async (path) => {
    const key = wanted.get(path);
    if (key === undefined) return undefined;
    wanted.delete(path);
    const sink = await arrivalSink(key, { sha256, to });
    return {
      take: sink.take,
      async done() {
        if (!(await sink.done())) throw new Failure('archive/damaged', { file: from.name, path });
        progress({ kind: 'bytes', files: 1, bytes: keySize(key) });
      },
    };
  };
  await readArchive(from, visit, signal);
  const [missing] = wanted.keys();
  if (missing !== undefined) throw new Failure('archive/damaged', { file: from.name, path: missing });
}
