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

/** Whether a sign is a letter or a digit of ASCII. */
const isWordSign = (code: number): boolean =>
  (code >= 0x30 && code <= 0x39) || (code >= 0x41 && code <= 0x5a) || (code >= 0x61 && code <= 0x7a);

/** The words of a line that may be checksums. By hand: a pattern runs out of stack on a word of a million digits. */
function* wordsOf(line: string): Generator<{ word: string; index: number }> {
  for (let at = 0; at < line.length; at++) {
    const index = at;
    while (at < line.length && isWordSign(line.charCodeAt(at))) at++;
    const length = at - index;
    if (length >= SHORTEST_LINE && length <= LONGEST_WORD) yield { word: line.slice(index, at), index };
  }
}

/** Words of so many digits are checksums of other kinds (SHA-224, SHA-384, SHA-512), which no list here has. */
const OTHER_LENGTHS = new Set([56, 96, 128]);
/** Shorter lines hold no checksum of any kind, and longer words are none, mistyped or not. */
const SHORTEST_LINE = CHECKSUM_KINDS['crc-32'];
const LONGEST_WORD = 128;
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

type Finding = { readonly digest: DigestInText } | { readonly mistyped: MistypedDigest };

/** What a text speaks of, as it comes; a checksum as often as it stands there. */
function* findings(text: string): Generator<Finding> {
  let lineNumber = 0;
  for (const line of linesOf(text)) {
    lineNumber += 1;
    if (line.length < SHORTEST_LINE) continue;
    let ofLine: { path: string | undefined; isCrc: boolean } | undefined;
    for (const { word, index } of wordsOf(line)) {
      const place = { line: lineNumber, column: index + 1 };
      const kind = kindOfDigest(word);
      if (kind === undefined) {
        const expected = almost(word);
        if (expected) yield { mistyped: { ...place, found: word, expected } };
        continue;
      }
      ofLine ??= { path: pathInLine(line), isCrc: /\bcrc/i.test(line) };
      if (kind !== 'crc-32' || ofLine.isCrc) {
        yield { digest: { ...place, kind, digest: word.toLowerCase(), path: ofLine.path } };
      }
    }
  }
}

/**
 * Finds the checksums that a log or any other text speaks of, by their shape: words of 64, 40 or 32 hexadecimal digits,
 * and of 8 where the line says that it is a CRC. What is mistyped is told apart, with its place. The same checksum is
 * told once, where it stands first. Takes time by the length of the text.
 */
export function digestsInText(text: string): DigestsInText {
  const digests = new Map<string, DigestInText>();
  const mistyped: MistypedDigest[] = [];
  for (const finding of findings(text)) {
    if ('mistyped' in finding) mistyped.push(finding.mistyped);
    else if (!digests.has(finding.digest.digest)) digests.set(finding.digest.digest, finding.digest);
  }
  return { digests: [...digests.values()], mistyped };
}

/** Whether a text speaks of a checksum, be it mistyped. */
export const hasDigest = (text: string): boolean => findings(text).next().done !== true;
