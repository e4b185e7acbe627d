import { z } from 'zod';
import { type Decide, type Merge, unchangedSide } from './difference';
import { mergeTables, type MergedColumn, type MergedRow, type Table } from './table';

/*
 * Tables of which each row has the same number of bytes: binary ones, and text in columns of fixed width. What lies where is told by a
 * layout; bytes of a row that it does not explain are brought over as they are. Texts here have a sign for each byte (Latin-1).
 */

export const FIELD_KINDS = ['text', 'u8', 'i8', 'u16', 'i16', 'u32', 'i32', 'f32', 'f64'] as const;
type FieldKind = (typeof FIELD_KINDS)[number];

const WIDTHS: Readonly<Record<Exclude<FieldKind, 'text'>, number>> = {
  ...{ u8: 1, i8: 1, u16: 2, i16: 2, u32: 4, i32: 4, f32: 4, f64: 8 },
};

const MOST_BYTES = 1_000_000;
const place = z.number().int().nonnegative().max(MOST_BYTES);
const FieldSchema = z.object({
  name: z.string().min(1).max(80),
  at: place.describe('Its first byte in a row, from 0'),
  as: z.enum(FIELD_KINDS).describe('How it is written; numbers of several bytes have their lowest byte first'),
  length: place.min(1).exactOptional().describe('Bytes, of a text'),
});
type Field = z.infer<typeof FieldSchema>;

const widthOf = ({ as, length = 1 }: Pick<Field, 'as' | 'length'>): number => (as === 'text' ? length : WIDTHS[as]);

/** What lies where in a table whose rows have the same number of bytes. */
export const RecordLayoutSchema = z
  .object({
    header: place.default(0).describe('Bytes before the first row'),
    record: place.min(1).describe('Bytes of a row, with what ends it'),
    fields: z.array(FieldSchema).min(1).max(500),
    key: z.array(z.string()).min(1).max(5).describe('The fields that tell rows apart'),
    count: z
      .object({ at: place, as: z.enum(['u8', 'u16', 'u32']) })
      .exactOptional()
      .describe('Where the header says how many rows there are'),
  })
  .superRefine(({ header, record, fields, key, count }, context) => {
    const fault = (path: (string | number)[], message: string): void =>
      context.addIssue({ code: 'custom', path, message });
    const names = new Set(fields.map(({ name }) => name));
    if (names.size < fields.length) fault(['fields'], 'has two fields of one name');
    let free = 0;
    for (const [i, field] of fields.entries()) {
      if (field.as === 'text' && field.length === undefined) fault(['fields', i, 'length'], 'is missing');
      if (field.at < free) fault(['fields', i, 'at'], 'lies in the field before it');
      free = field.at + widthOf(field);
      if (free > record) fault(['fields', i], 'goes beyond the row');
    }
    for (const [i, name] of key.entries()) if (!names.has(name)) fault(['key', i], 'is no field');
    if (count && count.at + WIDTHS[count.as] > header) fault(['count'], 'lies behind the header');
  });
export type RecordLayout = z.infer<typeof RecordLayoutSchema>;

const bytesOf = (text: string): Uint8Array<ArrayBuffer> => Uint8Array.from(text, (sign) => sign.charCodeAt(0));
const textOf = (bytes: Uint8Array): string => String.fromCharCode(...bytes);

function read(written: string, as: FieldKind): string {
  if (as === 'text') return written.replace(/[\0 ]+$/, '');
  const view = new DataView(bytesOf(written).buffer);
  switch (as) {
    case 'u8':
      return String(view.getUint8(0));
    case 'i8':
      return String(view.getInt8(0));
    case 'u16':
      return String(view.getUint16(0, true));
    case 'i16':
      return String(view.getInt16(0, true));
    case 'u32':
      return String(view.getUint32(0, true));
    case 'i32':
      return String(view.getInt32(0, true));
    case 'f32':
      return String(view.getFloat32(0, true));
    case 'f64':
      return String(view.getFloat64(0, true));
  }
}

/** @returns undefined for what cannot be written there: too long, no number, or one that is too large */
function spelled(value: string, field: Field, like: string): string | undefined {
  const { as } = field;
  const width = widthOf(field);
  if (as === 'text') {
    if (value.length > width || /[^\0-\xff]/.test(value)) return undefined;
    return value.padEnd(width, like.includes('\0') ? '\0' : ' ');
  }
  const number = Number(value);
  if (value.trim() === '' || Number.isNaN(number)) return undefined;
  const view = new DataView(new ArrayBuffer(width));
  if (as === 'f32') view.setFloat32(0, number, true);
  else if (as === 'f64') view.setFloat64(0, number, true);
  else if (width === 1) view.setUint8(0, number);
  else if (width === 2) view.setUint16(0, number, true);
  else view.setUint32(0, number, true);
  const written = textOf(new Uint8Array(view.buffer));
  return as.startsWith('f') || read(written, as) === String(number) ? written : undefined;
}

/** The fields of a layout, and bytes between them that it does not explain. */
function allFields({ fields, record }: RecordLayout): Field[] {
  const all: Field[] = [];
  let at = 0;
  const fill = (to: number): void => {
    if (to > at) all.push({ name: `bytes ${at} to ${to - 1}`, at, as: 'text', length: to - at });
  };
  for (const field of fields) {
    fill(field.at);
    all.push(field);
    at = field.at + widthOf(field);
  }
  fill(record);
  return all;
}

interface Records extends Table {
  readonly head: string;
  /** Behind the last whole row. */
  readonly tail: string;
}

function recordsOf(
  text: string,
  { header, record, count }: RecordLayout,
  fields: readonly Field[],
): Records | undefined {
  if (text.length < header) return undefined;
  const told = count && Number(read(text.slice(count.at, count.at + WIDTHS[count.as]), count.as));
  const length = told ?? Math.floor((text.length - header) / record);
  const end = header + length * record;
  if (end > text.length || (told === undefined && end < text.length)) return undefined;
  const row = (i: number): string => text.slice(header + i * record, header + (i + 1) * record);
  return {
    ...{ heads: fields.map(({ name }) => name), length, row, head: text.slice(0, header), tail: text.slice(end) },
    cell(i, column) {
      const field = fields[column]!;
      const at = header + i * record + field.at;
      return read(text.slice(at, at + widthOf(field)), field.as);
    },
  };
}

/** Header and tail with the count of rows left out, which follows from them. */
function around({ head, tail }: Records, { count }: RecordLayout): string {
  if (!count) return head + tail;
  return head.slice(0, count.at) + head.slice(count.at + WIDTHS[count.as]) + tail;
}

function write(
  own: Records,
  other: Records,
  layout: RecordLayout,
  fields: readonly Field[],
  { columns, rows }: { readonly columns: readonly MergedColumn[]; readonly rows: readonly MergedRow[] },
): string | undefined {
  const lines: string[] = [];
  for (const { ours, theirs, others } of rows) {
    let line = ours >= 0 ? own.row(ours) : other.row(theirs);
    for (const [column, counts] of others) {
      const field = fields[columns[column]!.ours]!;
      const [from, to] = [field.at, field.at + widthOf(field)];
      const cell =
        typeof counts === 'object'
          ? spelled(counts.value, field, line.slice(from, to))
          : other.row(theirs).slice(from, to);
      if (cell === undefined) return undefined;
      line = line.slice(0, from) + cell + line.slice(to);
    }
    lines.push(line);
  }
  const { count } = layout;
  const head = count
    ? own.head.slice(0, count.at) +
      (spelled(String(rows.length), { name: '', ...count }, '') ?? '') +
      own.head.slice(count.at + WIDTHS[count.as])
    : own.head;
  return head + lines.join('') + own.tail;
}

/**
 * Merges two tables of records that were made from a third. A cell that is decided for a value that cannot be written there is open.
 * @param base texts with a sign for each byte
 * @returns undefined where one is no such table, where rows are not told apart, or where both changed what stands around them
 */
export function mergeRecords(
  base: string,
  ours: string,
  theirs: string,
  decide: Decide,
  layout: RecordLayout,
): Merge | undefined {
  const fields = allFields(layout);
  const [before, own, other] = [base, ours, theirs].map((text) => recordsOf(text, layout, fields));
  if (!before || !own || !other) return undefined;
  const [was, mine, their] = [before, own, other].map((one) => around(one, layout));
  if (was !== their && mine !== their && mine !== was) return undefined;
  const table = mergeTables([before, own, other], decide, layout.key);
  if (!table) return undefined;
  const { differences, isOpen } = table;
  const framed = mine === was ? { ...own, head: other.head, tail: other.tail } : own;
  const merged = isOpen
    ? undefined
    : (unchangedSide(base, ours, theirs) ?? write(framed, other, layout, fields, table));
  return { differences, merged };
}
