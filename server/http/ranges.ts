/** Bytes `[start, end)` of a representation. */
export interface ByteRange {
  readonly start: number;
  readonly end: number;
}

/** What a request asks for of a representation. */
export type Asked =
  | { readonly what: 'whole' }
  | { readonly what: 'ranges'; readonly ranges: readonly [ByteRange, ...ByteRange[]] }
  /** No range of the set lies within it: 416. */
  | { readonly what: 'none' };

const WHOLE: Asked = { what: 'whole' };
/** More of them than anybody needs, and than are worth an answer of many parts. */
const MOST_RANGES = 32;

/** `first-last`, `first-` or `-suffix`; undefined where it is none of them, `out` where nothing of it is there. */
function rangeOf(spec: string, size: number): ByteRange | 'out' | undefined {
  const [, first = '', last = ''] = /^(\d*)-(\d*)$/.exec(spec.trim()) ?? [];
  if (first === '' && last === '') return undefined;
  if (first === '') {
    const length = Math.min(Number(last), size);
    return length === 0 ? 'out' : { start: size - length, end: size };
  }
  if (last !== '' && Number(last) < Number(first)) return undefined;
  const start = Number(first);
  return start >= size ? 'out' : { start, end: last === '' ? size : Math.min(Number(last) + 1, size) };
}

/** Overlapping and adjoining ranges become one, so that no byte is sent twice; in the order of their first bytes. */
function joined(ranges: readonly ByteRange[]): ByteRange[] {
  const all: ByteRange[] = [];
  for (const range of ranges.toSorted((a, b) => a.start - b.start)) {
    const last = all.at(-1);
    if (last && range.start <= last.end)
      all[all.length - 1] = { start: last.start, end: Math.max(last.end, range.end) };
    else all.push(range);
  }
  return all;
}

/**
 * Reads a Range header (RFC 9110, section 14.2). A unit other than bytes, a set that is malformed, and one of very many
 * ranges are passed over, as the RFC allows: the answer is the whole.
 * @param size of the representation, in bytes
 */
export function askedRanges(header: string | null, size: number): Asked {
  const [, set] = /^bytes=(.*)$/i.exec(header ?? '') ?? [];
  if (set === undefined) return WHOLE;
  const specs = set.split(',', MOST_RANGES + 1).filter((spec) => spec.trim() !== '');
  if (specs.length === 0 || specs.length > MOST_RANGES) return WHOLE;
  const found: ByteRange[] = [];
  for (const spec of specs) {
    const range = rangeOf(spec, size);
    if (range === undefined) return WHOLE;
    if (range !== 'out') found.push(range);
  }
  const [first, ...more] = joined(found);
  return first ? { what: 'ranges', ranges: [first, ...more] } : { what: 'none' };
}
