import { between, fraction, mix, pick, seedFor, streamBytes } from './random';

/** A stretch of a content: a part of a stream, or bytes as they are. */
export type Segment =
  | { readonly seed: number; readonly offset: number; readonly length: number }
  | { readonly bytes: Uint8Array; readonly length: number };

/** A content as stretches after one another, so that any range of it can be had without making the rest. */
export interface Content {
  readonly size: number;
  readonly segments: readonly Segment[];
}

function contentOf(segments: readonly Segment[]): Content {
  return { size: segments.reduce((sum, { length }) => sum + length, 0), segments };
}

/** Bytes `[start, end)`; the range must lie within the content. */
export function readContent({ segments }: Content, start: number, end: number): Uint8Array<ArrayBuffer> {
  const out = new Uint8Array(end - start);
  let at = 0;
  for (const segment of segments) {
    const from = Math.max(start, at);
    const to = Math.min(end, at + segment.length);
    if (from < to) {
      const part = out.subarray(from - start, to - start);
      if ('bytes' in segment) part.set(segment.bytes.subarray(from - at, to - at));
      else streamBytes(segment.seed, segment.offset + from - at, part);
    }
    at += segment.length;
    if (at >= end) break;
  }
  return out;
}

/**
 * A binary file after `revision` changes. An archive grows in its middle, so that what lies behind shifts; any other
 * file has a stretch replaced by one of another length.
 */
export function binaryContent(seed: number, size: number, revision: number, kind: 'archive' | 'plain'): Content {
  const parts = kind === 'archive' ? 8 : 4;
  const length = Math.ceil(size / parts);
  const segments: Segment[] = Array.from({ length: parts }, (_, i) => ({ seed: mix(seed + i), offset: 0, length }));
  for (let r = 1; r <= revision; r++) {
    const fresh = seedFor(seed, `revision ${r}`);
    const place = 1 + (fresh % (parts - 1));
    const grown = { seed: fresh, offset: 0, length: Math.ceil(length * (0.1 + (fresh % 100) / 400)) };
    if (kind === 'archive') segments.splice(place, 0, grown);
    else segments[place] = { ...grown, length: Math.ceil(length * (0.8 + (fresh % 100) / 250)) };
  }
  return contentOf(segments);
}

/** A program: a readable head that names the build, then code that differs in every build. */
export function programContent(seed: number, size: number, build: string): Content {
  const head = new TextEncoder().encode(`FERRYWAKE PROGRAM ${build}\n`);
  const code = seedFor(seed, build);
  return contentOf([
    { bytes: head, length: head.length },
    { seed, offset: 0, length: Math.floor(size * 0.6) },
    { seed: code, offset: 0, length: Math.floor(size * 0.4) + (code % 4096) },
  ]);
}

export function textContent(text: string): Content {
  const bytes = new TextEncoder().encode(text);
  return contentOf([{ bytes, length: bytes.length }]);
}

const FIRST = [
  'Alder',
  'Barge',
  'Cable',
  'Dunlin',
  'Eel',
  'Fathom',
  'Gantry',
  'Heron',
  'Inlet',
  'Jetty',
  'Kelp',
  'Lantern',
];
const SECOND = [
  'basin',
  'bridge',
  'crossing',
  'ferry',
  'gate',
  'landing',
  'lock',
  'pool',
  'quay',
  'reach',
  'sluice',
  'weir',
];

const nameFor = (seed: number, text: string): string =>
  `${pick(seed, `${text} first`, FIRST)} ${pick(seed, `${text} second`, SECOND)}`;

/** The latest revision up to `revision` at which the thing called `name` changed; 0 where it never did. */
function lastChange(seed: number, name: string, revision: number): number {
  for (let r = revision; r > 0; r--) if (fraction(seed, `${name} changes at ${r}`) < 0.15) return r;
  return 0;
}

/** A table of the game: a key column and numbers; each revision alters some cells and adds rows at the end. */
export function tableText(seed: number, rows: number, revision: number): string {
  const columns = ['id', 'name', 'draught_cm', 'fee', 'crew', 'hours'];
  const lines = [columns.join(',')];
  for (let row = 0; row < rows + 3 * revision; row++) {
    const cells = columns.slice(2).map((column) => {
      const changed = lastChange(seed, `${row} ${column}`, revision);
      return between(seed, `${row} ${column} ${changed}`, 1, 900);
    });
    lines.push([`r${String(row + 1).padStart(4, '0')}`, nameFor(seed, String(row)), ...cells].join(','));
  }
  return `${lines.join('\n')}\n`;
}

function settings(seed: number, count: number, revision: number): [string, number][] {
  return Array.from({ length: count + revision }, (_, i) => {
    const key = `${pick(seed, `key ${i}`, FIRST).toLowerCase()}_${pick(seed, `part ${i}`, SECOND)}_${i}`;
    return [key, between(seed, `${key} ${lastChange(seed, key, revision)}`, 0, 1000)];
  });
}

export function jsonText(seed: number, count: number, revision: number): string {
  return `${JSON.stringify(Object.fromEntries(settings(seed, count, revision)), null, 2)}\n`;
}

export function iniText(seed: number, count: number, revision: number): string {
  const lines = settings(seed, count, revision).map(([key, value]) => `${key} = ${value}`);
  return `[general]\n${lines.join('\n')}\n`;
}

export function xmlText(seed: number, count: number, revision: number): string {
  const lines = settings(seed, count, revision).map(([key, value]) => `  <item id="${key}" width="${value}"/>`);
  return `<?xml version="1.0" encoding="UTF-8"?>\n<panel>\n${lines.join('\n')}\n</panel>\n`;
}
