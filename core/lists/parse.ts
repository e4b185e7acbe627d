import { Failure } from '#core/failure';
import { PathSet } from '#core/paths';
import { shortenMiddle } from '#core/text';
import { type Entry, entryOf, formOf, LONGEST_NAME } from './entry';
import { type ChecksumKind, kindOfDigest } from './kinds';
import { linesOf } from './lines';

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
/** Characters of a bad line that are told. */
const MOST_FOUND = 80;

/**
 * The name relative to the folder: without a leading `./`, and with `/` where a system wrote backslashes. A backslash that
 * was escaped is one of the name's own, and no separator.
 */
function relative({ name, escaped }: Entry): string {
  if (name.length > LONGEST_NAME) return name;
  return (escaped ? name : name.replaceAll('\\', '/')).replace(/^(\.\/)+/, '');
}

/**
 * Reads a checksum list in the GNU, BSD, `openssl dgst` or SFV form, told line by line. Empty lines and remarks, which begin
 * with `;` or `#`, are passed over; ends of lines may be LF or CRLF, and a byte order mark may stand first. A line that can
 * be read in two forms is read in that of the lines around it.
 * @param file how the text is called in errors
 * @throws Failure `list/*`, `digest/malformed` or `path/*` with file and line; nothing of a bad list is taken over
 */
export function parseChecksumList(text: string, file: string): ChecksumList {
  if (text.length > MAX_LENGTH) throw new Failure('list/too-long', { file, limit: MAX_LENGTH });
  const lines = (): Iterable<string> => linesOf(text.startsWith('\ufeff') ? text.slice(1) : text);
  const form = formOf(lines());
  const names = new PathSet();
  const files: ListedFile[] = [];
  let kind: ChecksumKind | undefined;
  let line = 0;
  for (const words of lines()) {
    line += 1;
    const where = { file, line };
    if (words.trim() === '') continue;
    const entry = entryOf(words, form);
    if (entry === 'remark') continue;
    if (!entry) throw new Failure('list/no-entry', { ...where, found: shortenMiddle(words, MOST_FOUND) });
    const own = kindOfDigest(entry.digest);
    if (own === undefined || (entry.claims !== undefined && own !== entry.claims)) {
      const found = shortenMiddle(entry.digest, MOST_FOUND);
      throw new Failure('digest/malformed', { ...where, path: entry.name, found, length: entry.digest.length });
    }
    kind ??= own;
    if (own !== kind) throw new Failure('list/mixed-kinds', { ...where, expected: kind, found: own });
    const path = relative(entry);
    names.add(path, where);
    files.push({ path, digest: entry.digest.toLowerCase() });
    if (files.length > MAX_FILES) throw new Failure('list/too-long', { file, line, limit: MAX_FILES });
  }
  if (kind === undefined) throw new Failure('list/empty', { file });
  return { kind, files };
}
