import { Failure } from '#core/failure';
import { fromCsvCell, jsonRows, type TableRow } from '#core/tables';

/** A table as it came: what stands over its columns, and its rows. */
export interface RawTable {
  readonly heads: readonly string[];
  readonly rows: readonly TableRow[];
}

const MAX_ROWS = 100_000;
const MAX_COLUMNS = 200;

/** What most likely parts the cells: what stands most often in the line of the heads. */
function separatorOf(text: string): string {
  const head = text.slice(0, text.search(/\r?\n|$/));
  const times = (separator: string): number => head.split(separator).length;
  return [',', ';', '\t', '|'].toSorted((a, b) => times(b) - times(a))[0]!;
}

/**
 * Reads CSV (any common separator, quotes) or a JSON list of objects.
 * @param file how the text is called in errors
 * @throws Failure `json/*` or `table/*` with file and line
 */
export async function readRawTable(file: string, given: string): Promise<RawTable> {
  const text = given.replace(/^\ufeff/, '');
  const { heads, rows } = /^\s*\[/.test(text) ? jsonRows(text, file) : await csvRows(text, file);
  if (heads.length > MAX_COLUMNS) throw new Failure('table/too-large', { file, what: 'columns', limit: MAX_COLUMNS });
  if (rows.length === 0) throw new Failure('table/empty', { file });
  return { heads, rows };
}

async function csvRows(text: string, file: string): Promise<RawTable> {
  const { default: Papa } = await import('papaparse');
  const lines: TableRow[] = [];
  let line = 1;
  Papa.parse<string[]>(text, {
    delimiter: separatorOf(text),
    step({ data, errors }) {
      const broken = errors.find(({ type }) => type === 'Quotes');
      if (broken) throw new Failure('table/malformed', { file, line, what: broken.code });
      if (data.length > MAX_COLUMNS) {
        throw new Failure('table/too-large', { file, line, what: 'columns', limit: MAX_COLUMNS });
      }
      if (data.some((cell) => cell.trim() !== '')) lines.push({ line, cells: data.map(fromCsvCell) });
      if (lines.length > MAX_ROWS) throw new Failure('table/too-large', { file, line, what: 'rows', limit: MAX_ROWS });
      // A cell with line breaks in it makes the next row begin later than the count of rows says.
      line += 1 + data.reduce((sum, cell) => sum + (cell.match(/\n/g)?.length ?? 0), 0);
    },
  });
  const [head, ...rows] = lines;
  return { heads: head?.cells ?? [], rows };
}
