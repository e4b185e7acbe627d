import { CHECKSUM_KINDS, type ChecksumKind, kindOfDigest } from './kinds';
import { linesOf } from './lines';
import { pathInLine } from './path-in-line';

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
const MISTAKEN = ['sha-256', 'sha-1', 'md5'] as const;

/** The kind that a word would be but for a slip; undefined where it does not look like a checksum at all. */
function almost(word: string): ChecksumKind | undefined {
  if (OTHER_LENGTHS.has(word.length)) return undefined;
  const kind = MISTAKEN.find((one) => Math.abs(CHECKSUM_KINDS[one] - word.length) <= SLIPS);
  // A word of letters alone is prose, however few of them are no digits.
  if (kind === undefined || !/\d/.test(word)) return undefined;
  const wrong = word.replace(/[0-9a-f]/gi, '').length;
  return wrong <= SLIPS ? kind : undefined;
}

/**
 * Finds the checksums that a log or any other text speaks of, by their shape: words of 64, 40 or 32 hexadecimal digits,
 * and of 8 where the line says that it is a CRC. What is mistyped is told apart, with its place. The same checksum is
 * told once, where it stands first. Takes time by the length of the text.
 */
export function digestsInText(text: string): DigestsInText {
  const digests = new Map<string, DigestInText>();
  const mistyped: MistypedDigest[] = [];
  let lineNumber = 0;
  for (const line of linesOf(text)) {
    lineNumber += 1;
    let ofLine: { path: string | undefined; isCrc: boolean } | undefined;
    for (const { 0: word, index } of line.matchAll(WORD)) {
      const place = { line: lineNumber, column: index + 1 };
      const kind = kindOfDigest(word);
      if (kind === undefined) {
        const expected = almost(word);
        if (expected) mistyped.push({ ...place, found: word, expected });
        continue;
      }
      ofLine ??= { path: pathInLine(line), isCrc: /\bcrc/i.test(line) };
      if (kind === 'crc-32' && !ofLine.isCrc) continue;
      const digest = word.toLowerCase();
      if (!digests.has(digest)) digests.set(digest, { ...place, kind, digest, path: ofLine.path });
    }
  }
  return { digests: [...digests.values()], mistyped };
}
