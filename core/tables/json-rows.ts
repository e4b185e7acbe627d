import { z } from 'zod';
import { parseJson } from '#core/json';
import type { TableRow } from './mod-table';

const CellSchema = z.union([z.string(), z.number(), z.null(), z.array(z.union([z.string(), z.number()]))]);
const MAX_FIELDS = 200;
/** Counted before a field is looked at: there may be millions. */
const fewFields = z
  .unknown()
  .refine((row) => typeof row !== 'object' || row === null || Object.keys(row).length <= MAX_FIELDS, {
    message: `has more than ${MAX_FIELDS} fields`,
    abort: true,
  });
const RowsSchema = z.array(fewFields.pipe(z.record(z.string(), CellSchema))).max(100_000);

const cellText = (cell: z.output<typeof CellSchema> | undefined): string =>
  Array.isArray(cell) ? cell.join('; ') : String(cell ?? '');

/**
 * The rows of a JSON table: a list of objects whose fields are the columns, with lists for cells of several parts. The line
 * of a row is its place in the list, from 1.
 * @throws Failure `json/*` with file and line
 */
export function jsonRows(text: string, file: string): { heads: string[]; rows: TableRow[] } {
  const objects = parseJson(text, RowsSchema, file);
  const heads = [...new Set(objects.flatMap((object) => Object.keys(object)))];
  const rows = objects.map((object, i) => ({ line: i + 1, cells: heads.map((head) => cellText(object[head])) }));
  return { heads, rows };
}
