import { CHECKSUM_KINDS, type ChecksumKind, kindOfDigest } from './kinds';

/** Where a word stands in a text; both count from 1. */
export interface TextPlace {
  readonly line: number;
  readonly column: number;
}

/** A checksum that a text speaks of. */
export interface DigestInText extends TextPlace {
  readonly kind: ChecksumKind;
  /** Lower-case hexadecimal digits. */
  readonly digest: string;
  /** The path that its line speaks of, where one stands there. */
  readonly path: string | undefined;
}

/** A word that is all but a checksum: a digit too many or too few, or a letter among the digits. */
export interface MistypedDigest extends TextPlace {
  readonly found: string;
  readonly expected: ChecksumKind;
}

export interface DigestsInText {
  readonly digests: readonly DigestInText[];
  readonly mistyped: readonly MistypedDigest[];
}

const WORD = /[0-9A-Za-z]{8,}/g;
/** Words of so many digits are checksums of other kinds (SHA-224, SHA-384, SHA-512), which no list here has. */
const OTHER_LENGTHS = new Set([56, 96, 128]);
/** As much as a slip of the hand adds, leaves out or gets wrong. */
const SLIPS = 2;
const SHORTEST = CHECKSUM_KINDS.md5;

/** Quoted, or with a slash in it, or with an ending of letters. */
const PATH =
  /"([^"]+\.[^"]+)"|'([^']+\.[^']+)'|([^\s"'()=,;]+[/\\][^\s"'(),;]+)|((?<![\w.])[A-Za-z_][\w-]*\.[A-Za-z]\w{0,7}\b)/g;

function pathIn(line: string, digest: string): string | undefined {
  for (const [, ...parts] of line.matchAll(PATH)) {
    const path = parts
      .find((part) => part !== undefined)!
      .replaceAll('\\', '/')
      .replace(/^(\.\/)+|[.:]+$/g, '');
    if (path !== '' && !path.toLowerCase().includes(digest)) return path;
  }
  return undefined;
}

/** The kind that a word would be but for a slip; undefined where it does not look like a checksum at all. */
function almost(word: string): ChecksumKind | undefined {
  const wrong = word.replace(/[0-9a-f]/gi, '').length;
  const slip = wrong > 0 ? wrong <= SLIPS : word.length >= SHORTEST - SLIPS;
  if (!slip || OTHER_LENGTHS.has(word.length)) return undefined;
  const kinds = ['sha-256', 'sha-1', 'md5'] as const;
  // A word of letters alone is prose, however few of them are no digits.
  if (!/\d/.test(word)) return undefined;
  return kinds.find((kind) => Math.abs(CHECKSUM_KINDS[kind] - word.length) <= SLIPS);
}

/**
 * Finds the checksums that a log or any other text speaks of, by their shape: words of 64, 40 or 32 hexadecimal digits,
 * and of 8 where the line says that it is a CRC. What is mistyped is told apart, with its place. The same checksum is
 * told once, where it stands first.
 */
export function digestsInText(text: string): DigestsInText {
  const digests = new Map<string, DigestInText>();
  const mistyped: MistypedDigest[] = [];
  text.split(/\r?\n/).forEach((line, i) => {
    for (const { 0: word, index } of line.matchAll(WORD)) {
      const place = { line: i + 1, column: index + 1 };
      const kind = kindOfDigest(word);
      if (kind !== undefined && (kind !== 'crc-32' || /\bcrc/i.test(line))) {
        const digest = word.toLowerCase();
        if (!digests.has(digest)) digests.set(digest, { ...place, kind, digest, path: pathIn(line, digest) });
        continue;
      }
      const expected = kind === undefined ? almost(word) : undefined;
      if (expected) mistyped.push({ ...place, found: word, expected });
    }
  });
  return { digests: [...digests.values()], mistyped };
}
