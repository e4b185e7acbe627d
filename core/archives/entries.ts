import { Failure } from '#core/failure';
import { fileName, PathSet } from '#core/paths';

/** What an archive says that it has. */
export interface ArchiveEntry {
  /** As it is written in the archive. */
  readonly path: string;
  /** Bytes, unpacked; undefined where the archive does not tell before it is unpacked. */
  readonly size: number | undefined;
  readonly is: 'file' | 'folder' | 'link' | 'other';
  readonly isEncrypted: boolean;
  /** Milliseconds since 1970. */
  readonly modified: number;
}

/** Files and folders of one archive. */
const MOST_ENTRIES = 100_000;
/** Bytes that one archive may come to, unpacked. */
const MOST_BYTES = 256e9;
/** How many times its own size an archive may come to: what deflates best is about a thousandth of itself. */
const MOST_GROWTH = 1_100;
/** Bytes that every archive may come to, however small it is. */
const ALWAYS_ALLOWED = 1e9;

/** What systems leave in archives of their own: of no use to any game. */
const LITTER = /^(?:__MACOSX|\._.*|\.DS_Store|Thumbs\.db|desktop\.ini)$/i;

/** Whether a path is of what a system has left in an archive. */
const isLitter = (path: string): boolean => path.split('/').some((part) => LITTER.test(part));

/** The path as it is written here: some programs part folders with `\`, or begin with `./`. */
const entryPath = (path: string): string => path.replaceAll('\\', '/').replace(/^(?:\.\/)+/, '');

/**
 * Holds the entries of one archive to what may be unpacked, one by one, before any of their bytes are read.
 */
export class EntryGuard {
  readonly #paths = new PathSet();
  #entries = 0;
  #bytes = 0;

  /**
   * @param file the archive's name
   * @param size its bytes, packed
   */
  constructor(
    private readonly file: string,
    private readonly size: number,
  ) {}

  /**
   * @returns the path of a file; undefined for a folder, and for what a system has left there
   * @throws Failure `archive/*` or `path/*` that names the archive and the entry
   */
  path({ path: written, size = 0, is, isEncrypted }: ArchiveEntry): string | undefined {
    const { file } = this;
    if (++this.#entries > MOST_ENTRIES) throw new Failure('archive/too-many', { file, limit: MOST_ENTRIES });
    const path = entryPath(written);
    if (is === 'folder') return undefined;
    // A link leads anywhere, and a device is no file: neither is ever made.
    if (is !== 'file') throw new Failure('archive/not-a-file', { file, path });
    if (isEncrypted) throw new Failure('archive/encrypted', { file, path });
    if (isLitter(path)) return undefined;
    this.#paths.add(path, { file });
    this.grow(size);
    return path;
  }

  /** Counts bytes that come out of it, or are said to. @throws Failure `archive/too-large` */
  grow(bytes: number): void {
    this.#bytes += bytes;
    const limit = Math.min(MOST_BYTES, Math.max(ALWAYS_ALLOWED, this.size * MOST_GROWTH));
    if (this.#bytes > limit) throw new Failure('archive/too-large', { file: this.file, limit });
  }
}

/** Kinds of archives that are read; `packed` is a tar in bzip2, xz or zstd. */
export type ArchiveKind = 'zip' | 'tar' | 'tar.gz' | '7z' | 'rar' | 'packed';

/** Bytes of the head that tell the kind. */
export const HEAD_BYTES = 512;

const starts = (head: Uint8Array, ...bytes: number[]): boolean => bytes.every((byte, i) => head[i] === byte);
const textAt = (head: Uint8Array, at: number, length: number): string =>
  String.fromCharCode(...head.subarray(at, at + length));

/**
 * Whether the head is a tar header, by its checksum: the sum of its bytes with the checksum's own as blanks (POSIX.1-2017, pax,
 * "ustar Interchange Format").
 */
function isTarHead(head: Uint8Array): boolean {
  if (head.length < HEAD_BYTES) return false;
  const said = Number.parseInt(
    textAt(head, 148, 8)
      .replace(/[\0 ].*$/s, '')
      .trim() || 'x',
    8,
  );
  const sum = head.reduce((all, byte, i) => all + (i >= 148 && i < 156 ? 0x20 : byte), 0);
  return said === sum;
}

/**
 * What kind of archive begins like this; undefined for what is none.
 * @param bytes at least its first {@link HEAD_BYTES} bytes, or all where it is shorter
 */
export function archiveKind(bytes: Uint8Array): ArchiveKind | undefined {
  const head = bytes.subarray(0, HEAD_BYTES);
  if (starts(head, 0x50, 0x4b, 3, 4) || starts(head, 0x50, 0x4b, 5, 6) || starts(head, 0x50, 0x4b, 7, 8)) return 'zip';
  if (starts(head, 0x37, 0x7a, 0xbc, 0xaf, 0x27, 0x1c)) return '7z';
  if (starts(head, 0x52, 0x61, 0x72, 0x21, 0x1a, 7)) return 'rar';
  if (starts(head, 0x1f, 0x8b)) return 'tar.gz';
  if (textAt(head, 0, 3) === 'BZh') return 'packed';
  if (starts(head, 0xfd, 0x37, 0x7a, 0x58, 0x5a, 0)) return 'packed';
  if (starts(head, 0x28, 0xb5, 0x2f, 0xfd)) return 'packed';
  return isTarHead(head) ? 'tar' : undefined;
}

/** One of several files that are one archive together, by its name. */
const PART = /\.(?:(?:7z|zip|rar|tar)\.\d{3}|part\d+\.rar|z\d{2}|r\d{2})$/i;

/** Whether a file is one part of an archive in several. */
export const isPartOfArchive = (name: string): boolean => PART.test(fileName(name));
