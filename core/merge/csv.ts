import { type Decide, type Merge, unchangedSide } from './difference';
import { linesOf } from './text';
import { type MergedColumn, type MergedRow, mergeTables, type Table } from './table';

/*
 * Tables as text: a row of heads, cells parted by a sign (RFC 4180, with other signs as well). What is ours keeps its sign, its quotes and
 * the ends of its lines.
 */

interface Csv extends Table {
  readonly sign: string;
  readonly headRow: string;
  /** What ends its lines. */
  readonly end: string;
  /** Blank lines at the end. */
  readonly tail: string;
  /** Cells of a row as they are written. */
  readonly written: (row: number) => readonly string[];
}

const SIGNS = [',', ';', '\t', '|'] as const;

function countOf(text: string, sign: string): number {
  let count = 0;
  for (let at = text.indexOf(sign); at >= 0; at = text.indexOf(sign, at + 1)) count += 1;
  return count;
}

/** The rows of a text with their ends: a line end in quotation marks is none. Undefined where such a mark is not closed. */
function rowsOf(text: string): string[] | undefined {
  if (!text.includes('"')) return linesOf(text);
  const rows: string[] = [];
  let start = 0;
  for (let end = 0, isQuoted = false; end < text.length;) {
    const next = text.indexOf('\n', end) + 1 || text.length;
    if (countOf(text.slice(end, next), '"') % 2 === 1) isQuoted = !isQuoted;
    end = next;
    if (isQuoted && end >= text.length) return undefined;
    if (isQuoted) continue;
    rows.push(text.slice(start, end));
    start = end;
  }
  return rows;
}

const endOf = (row: string): string => (row.endsWith('\r\n') ? '\r\n' : row.endsWith('\n') ? '\n' : '');
const withoutEnd = (row: string): string => row.slice(0, row.length - endOf(row).length);

/** A cell of a row without quotation marks. */
function plainCell(row: string, column: number, sign: string): string {
  let start = 0;
  for (let i = 0; i < column; i++) start = row.indexOf(sign, start) + 1;
  const end = row.indexOf(sign, start);
  return end < 0 ? withoutEnd(row.slice(start)) : row.slice(start, end);
}

/** Cells as they are written. */
function cellsOf(row: string, sign: string): string[] {
  const line = withoutEnd(row);
  const pieces = line.split(sign);
  if (!line.includes('"')) return pieces;
  const cells: string[] = [];
  let open: string | undefined;
  for (const piece of pieces) {
    const cell: string = open === undefined ? piece : open + sign + piece;
    open = countOf(cell, '"') % 2 === 1 ? cell : undefined;
    if (open === undefined) cells.push(cell);
  }
  return open === undefined ? cells : [...cells, open];
}

const meant = (written: string): string =>
  /^\s*"/.test(written) ? written.trim().slice(1, -1).replaceAll('""', '"') : written;

/** The sign that parts the heads most often. */
const signOf = (head: string): string =>
  SIGNS.reduce((best, sign) => (countOf(head, sign) > countOf(head, best) ? sign : best), SIGNS[0]);

/** @returns undefined for what is no table with heads of which each is another one, and no row longer or shorter than them */
function csvOf(text: string): Csv | undefined {
  const all = rowsOf(text);
  if (!all || all.length === 0) return undefined;
  const last = all.findLastIndex((row) => row.trim() !== '');
  const [headRow, ...rows] = all.slice(0, last + 1);
  if (headRow === undefined) return undefined;
  const sign = signOf(headRow);
  const heads = cellsOf(headRow, sign).map((cell) => meant(cell).trim());
  if (heads.length < 2 || new Set(heads).size < heads.length) return undefined;
  const isPlain = !text.includes('"');
  const lengthOf = (row: string): number => (isPlain ? countOf(row, sign) + 1 : cellsOf(row, sign).length);
  if (rows.some((row) => lengthOf(row) !== heads.length)) return undefined;
  // Cells are asked for one after the other along a row.
  let [at, cells]: [number, readonly string[]] = [-1, []];
  const written = (row: number): readonly string[] => {
    if (row !== at) [at, cells] = [row, cellsOf(rows[row]!, sign)];
    return cells;
  };
  return {
    ...{ heads, headRow, sign, length: rows.length, written },
    row: (row) => rows[row]!,
    cell: (row, column) => (isPlain ? plainCell(rows[row]!, column, sign) : meant(written(row)[column]!)),
    end: endOf(headRow) || '\n',
    tail: all.slice(last + 1).join(''),
  };
}

/** A cell as it is written in a table: quoted where it holds what would part it. */
const spelled = (value: string, sign: string): string =>
  value.includes(sign) || /["\r\n]|^\s|\s$/.test(value) ? `"${value.replaceAll('"', '""')}"` : value;

function write(own: Csv, other: Csv, columns: readonly MergedColumn[], rows: readonly MergedRow[]): string {
  const isAsOurs =
    columns.length === own.heads.length && columns.every(({ ours, name }, i) => ours === i && name === own.heads[i]);
  /** A cell of theirs in our table. */
  const theirCell = (row: number, column: number): string => {
    if (row < 0 || column < 0) return '';
    return own.sign === other.sign ? other.written(row)[column]! : spelled(other.cell(row, column), own.sign);
  };
  const heads = isAsOurs
    ? withoutEnd(own.headRow)
    : columns
        .map(({ name, ours }) =>
          own.heads[ours] === name ? cellsOf(own.headRow, own.sign)[ours]! : spelled(name, own.sign),
        )
        .join(own.sign);
  const lines = rows.map(({ ours, theirs, others }): string => {
    if (ours >= 0 && others.size === 0 && isAsOurs) return withoutEnd(own.row(ours));
    const mine = ours >= 0 ? own.written(ours) : undefined;
    const cells = columns.map((column, i) => {
      const counts = others.get(i);
      if (typeof counts === 'object') return spelled(counts.value, own.sign);
      if (counts === 'theirs' || !mine) return theirCell(theirs, column.theirs);
      return mine[column.ours] ?? '';
    });
    return cells.join(own.sign);
  });
  const ends = rows.map(({ ours }) => (ours >= 0 ? endOf(own.row(ours)) : own.end) || own.end);
  const text = [heads + own.end, ...lines.map((line, i) => line + ends[i]!)].join('');
  const isEnded = /\n$/.test(own.length > 0 ? own.row(own.length - 1) : own.headRow);
  return (isEnded ? text : text.replace(/\r?\n$/, '')) + own.tail;
}

export interface CsvMerge extends Merge {
  /** The columns that tell rows apart. */
  readonly key: readonly string[];
}

/** Columns that all of some tables have, in the order of the first; undefined where one of them is no table. */
export function sharedColumns(texts: readonly string[]): readonly string[] | undefined {
  const heads = texts.map((text) => csvOf(text)?.heads);
  const [first] = heads;
  return heads.every((some) => some !== undefined)
    ? first!.filter((name) => heads.every((some) => some!.includes(name)))
    : undefined;
}

/**
 * Merges two tables that were made from a third, cell by cell.
 * @param key the columns that tell rows apart; they are looked for where none are named, or these do not
 * @returns undefined where they are no tables of which rows and columns can be told apart
 */
export function mergeCsv(
  base: string,
  ours: string,
  theirs: string,
  decide: Decide,
  key?: readonly string[],
): CsvMerge | undefined {
  const [before, own, other] = [csvOf(base), csvOf(ours), csvOf(theirs)];
  if (!before || !own || !other) return undefined;
  const table = mergeTables([before, own, other], decide, key);
  if (!table) return undefined;
  const { differences, isOpen, columns, rows } = table;
  const merged = isOpen ? undefined : (unchangedSide(base, ours, theirs) ?? write(own, other, columns, rows));
  return { key: table.key, differences, merged };
}
