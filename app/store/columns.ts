/*
 * Columns of texts as the store has them: one text each, its parts set apart by NUL, which no path and no key has in it. A
 * hundred thousand texts one by one would hold up the page that hands them over; one text is copied as it is.
 */

interface Columns {
  readonly paths: readonly string[];
  readonly keys: readonly string[];
}

export type Packed<Record extends Columns> = Omit<Record, keyof Columns> & {
  readonly [Column in keyof Columns]: string;
};

/** A record as it goes into the store. */
export const packed = <Record extends Columns>(record: Record): Packed<Record> => ({
  ...record,
  paths: record.paths.join('\0'),
  keys: record.keys.join('\0'),
});

const parts = (column: unknown): unknown =>
  typeof column === 'string' ? (column === '' ? [] : column.split('\0')) : column;

/** A record that was stored, to be held against its schema. Inverse of {@link packed}; undefined where there is none. */
export const unpacked = (record: { readonly paths: unknown; readonly keys: unknown } | undefined): unknown =>
  record && { ...record, paths: parts(record.paths), keys: parts(record.keys) };
