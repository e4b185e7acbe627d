import { type ChecksumKind, kindOfDigest } from './kinds';

/** What a line of a checksum list says, as it stands there. */
export interface Entry {
  readonly name: string;
  readonly digest: string;
  /** The kind that a tag in the line, or its form, claims. */
  readonly claims?: ChecksumKind;
  /** Its name was written with backslashes before the signs that a line cannot hold. */
  readonly escaped?: true;
}

/** Which of the two stands first where no tag parts them. */
export type Form = 'digest-first' | 'name-first';

const TAGS: ReadonlyMap<string, ChecksumKind> = new Map([
  ['SHA256', 'sha-256'],
  ['SHA2-256', 'sha-256'],
  ['SHA1', 'sha-1'],
  ['MD5', 'md5'],
  ['CRC32', 'crc-32'],
]);
const LONGEST_TAG = 8;

const SIGNS: Readonly<Record<string, string>> = { '\\': '\\', n: '\n', r: '\r' };

/** GNU coreutils writes `\\`, `\n` and `\r` for such characters of a name, and a backslash before the line. */
const unescaped = (name: string): string => name.replace(/\\([\\nr])/g, (_, letter: string) => SIGNS[letter]!);

/** A longer name is no path of any system; what it would be unescaped does not matter. */
export const LONGEST_NAME = 10_000;

const withName = (name: string, escaped: boolean): Pick<Entry, 'name' | 'escaped'> =>
  escaped && name.length <= LONGEST_NAME ? { name: unescaped(name), escaped } : { name };

/**
 * `SHA256 (name) = hex`, as BSD and `--tag` write it, and `SHA2-256(name)= hex`, as `openssl dgst` does. Every search goes
 * once over the line.
 */
function taggedEntry(line: string): Entry | undefined {
  const escaped = line.startsWith('\\');
  const from = escaped ? 1 : 0;
  const open = line.slice(0, from + LONGEST_TAG + 2).indexOf('(');
  if (open < 0) return undefined;
  const claims = TAGS.get(line.slice(from, line[open - 1] === ' ' ? open - 1 : open));
  const [close, width] = [')\u0020= ', ')= '].reduce<[number, number]>(
    (best, sign) => {
      const at = line.lastIndexOf(sign);
      return at > best[0] ? [at, sign.length] : best;
    },
    [-1, 0],
  );
  if (claims === undefined || close <= open + 1) return undefined;
  const digest = line.slice(close + width);
  return /\s/.test(digest) ? undefined : { digest, claims, ...withName(line.slice(open + 1, close), escaped) };
}

const HEX_RUN = /^\\?[0-9a-f]+/i;

/** `hex  name`, a `*` before the name for binary reading (GNU coreutils, "cksum output modes"). */
function digestFirst(line: string): Entry | undefined {
  const [run] = HEX_RUN.exec(line) ?? [];
  if (run === undefined || line[run.length] !== ' ') return undefined;
  const mark = line[run.length + 1];
  const name = line.slice(run.length + 2);
  if ((mark !== ' ' && mark !== '*') || name === '') return undefined;
  const escaped = run.startsWith('\\');
  return { digest: run.slice(escaped ? 1 : 0), ...withName(name, escaped) };
}

const CRC_DIGITS = 8;

/** `name hex`, as files for simple verification (SFV) have it; always CRC-32. */
function nameFirst(line: string): Entry | undefined {
  const digest = line.slice(-CRC_DIGITS);
  const name = line.slice(0, -CRC_DIGITS);
  const bare = name.trimEnd();
  if (kindOfDigest(digest) !== 'crc-32' || bare === '' || bare.length === name.length) return undefined;
  return { digest, name: bare, claims: 'crc-32' };
}

/**
 * Whether a line is a remark. `;` begins one in every form; `#` too, but for the name of a file that stands first
 * (`#1.pak 0A1B2C3D`), which has no blank behind it.
 */
function isRemark(line: string, form: Form | undefined): boolean {
  const start = /^\s/.test(line) ? line.trimStart() : line;
  if (start.startsWith(';')) return true;
  return start.startsWith('#') && (form !== 'name-first' || /^#(\s|$)/.test(start) || nameFirst(line) === undefined);
}

/** An entry that stands as one whatever the lines around it are: its digest is as long as that of some kind. */
const isSure = (entry: Entry | undefined): boolean => entry !== undefined && kindOfDigest(entry.digest) !== undefined;

/** A digest of another kind than CRC-32 that stands first is one, whatever the name behind it ends in. */
const isAmbiguous = (byDigest: Entry | undefined): boolean =>
  byDigest === undefined || !isSure(byDigest) || byDigest.digest.length === CRC_DIGITS;

/** The form that the lines have, by the first that can be read in one way only; undefined where none tells. */
export function formOf(lines: Iterable<string>): Form | undefined {
  for (const line of lines) {
    if (line.trim() === '' || isRemark(line, undefined)) continue;
    const byDigest = digestFirst(line);
    if (!isAmbiguous(byDigest) || taggedEntry(line)) return 'digest-first';
    const byName = nameFirst(line);
    if (isSure(byDigest) && !byName) return 'digest-first';
    // A name of hexadecimal digits before a CRC-32 looks like a digest of a length that no kind has.
    if (byName && !isSure(byDigest)) return 'name-first';
  }
  return undefined;
}

/** What a line of a list of this form says; `remark` for one that says nothing, undefined for one that is no entry. */
export function entryOf(line: string, form: Form | undefined): Entry | 'remark' | undefined {
  if (isRemark(line, form)) return 'remark';
  const byDigest = digestFirst(line);
  if (byDigest && !isAmbiguous(byDigest)) return byDigest;
  const tagged = taggedEntry(line);
  if (tagged) return tagged;
  const byName = nameFirst(line);
  return byName && (!isSure(byDigest) || form === 'name-first') ? byName : byDigest;
}
