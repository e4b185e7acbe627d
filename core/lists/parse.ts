import { Failure } from '#core/failure';
import { PathSet } from '#core/paths';
import { type ChecksumKind, kindOfDigest } from './kinds';

export interface ListedFile {
  readonly path: string;
  /** Lower-case hexadecimal digits. */
  readonly digest: string;
}

/** A checksum list; all of its files have the same kind of checksum. */
export interface ChecksumList {
  readonly kind: ChecksumKind;
  readonly files: readonly ListedFile[];
}

const MAX_FILES = 2_000_000;
const MAX_LENGTH = 1 << 29;

interface Entry {
  readonly name: string;
  readonly digest: string;
  /** The kind that a tag in the line claims. */
  readonly claims?: ChecksumKind | undefined;
}

const TAGS: Readonly<Record<string, ChecksumKind>> = {
  SHA256: 'sha-256',
  'SHA2-256': 'sha-256',
  SHA1: 'sha-1',
  MD5: 'md5',
  CRC32: 'crc-32',
};

/** GNU coreutils writes `\\`, `\n` and `\r` for such characters of a name, and a backslash before the line. */
const unescaped = (name: string): string =>
  name.replace(/\\([\\nr])/g, (_, letter: string) => ({ '\\': '\\', n: '\n', r: '\r' })[letter]!);

/** `hex  name`, a `*` before the name for binary reading (GNU coreutils, "cksum output modes"). */
function gnuEntry(line: string): Entry | undefined {
  const [, escape, digest, name] = /^(\\?)([0-9a-f]+) [ *](.+)$/i.exec(line) ?? [];
  if (digest === undefined || name === undefined) return undefined;
  return { digest, name: escape ? unescaped(name) : name };
}

/** `SHA256 (name) = hex`, as BSD and `--tag` write it. */
function bsdEntry(line: string): Entry | undefined {
  const [, escape, tag, name, digest] = /^(\\?)([A-Z0-9-]+) ?\((.+)\) = (\S*)$/.exec(line) ?? [];
  const claims = TAGS[tag ?? ''];
  if (claims === undefined || name === undefined || digest === undefined) return undefined;
  return { digest, name: escape ? unescaped(name) : name, claims };
}

/** `name hex`, as files for simple verification (SFV) have it; always CRC-32. */
function sfvEntry(line: string): Entry | undefined {
  const [, name, digest] = /^(.+?)\s+([0-9a-f]{8})$/i.exec(line) ?? [];
  return digest === undefined || name === undefined ? undefined : { digest, name, claims: 'crc-32' };
}

function entryOf(line: string): Entry | undefined {
  const gnu = gnuEntry(line);
  // A name of hexadecimal digits before a CRC-32 looks like a digest of a length that no kind has.
  const wins = gnu && kindOfDigest(gnu.digest) !== undefined;
  return bsdEntry(line) ?? (wins ? gnu : (sfvEntry(line) ?? gnu));
}

/** The name relative to the folder: without a leading `./`, and with `/` where a system wrote backslashes. */
function relative(name: string): string {
  return name.replaceAll('\\', '/').replace(/^(\.\/)+/, '');
}

/**
 * Reads a checksum list in the GNU, BSD or SFV form, told line by line. Empty lines and those that begin with `;` or `#`
 * and are no entry are passed over; ends of lines may be LF or CRLF, and a byte order mark may stand first.
 * @param file how the text is called in errors
 * @throws Failure `list/*`, `digest/malformed` or `path/*` with file and line; nothing of a bad list is taken over
 */
export function parseChecksumList(text: string, file: string): ChecksumList {
  if (text.length > MAX_LENGTH) throw new Failure('list/too-long', { file, limit: MAX_LENGTH });
  const names = new PathSet();
  const files: ListedFile[] = [];
  let kind: ChecksumKind | undefined;
  let line = 0;
  for (let start = text.startsWith('\ufeff') ? 1 : 0; start < text.length;) {
    const newline = text.indexOf('\n', start);
    const end = newline < 0 ? text.length : newline;
    const words = text.slice(start, text[end - 1] === '\r' && end > start ? end - 1 : end);
    start = end + 1;
    line += 1;
    const where = { file, line };
    if (words.trim() === '') continue;
    const entry = entryOf(words);
    if (!entry) {
      if (/^\s*[;#]/.test(words)) continue;
      throw new Failure('list/no-entry', { ...where, found: words.slice(0, 80) });
    }
    const own = kindOfDigest(entry.digest);
    if (own === undefined || (entry.claims !== undefined && own !== entry.claims)) {
      const found = entry.digest.slice(0, 80);
      throw new Failure('digest/malformed', { ...where, path: entry.name, found, length: entry.digest.length });
    }
    kind ??= own;
    if (own !== kind) throw new Failure('list/mixed-kinds', { ...where, expected: kind, found: own });
    const path = relative(entry.name);
    names.add(path, where);
    files.push({ path, digest: entry.digest.toLowerCase() });
    if (files.length > MAX_FILES) throw new Failure('list/too-long', { file, line, limit: MAX_FILES });
  }
  if (kind === undefined) throw new Failure('list/empty', { file });
  return { kind, files };
}
