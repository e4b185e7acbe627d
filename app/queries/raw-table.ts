import { Failure } from '#core/failure';
import { CsvFault, csvRows, fromCsvCell, jsonRows, markdownRows, type TableRow } from '#core/tables';

/** A table as it came: what stands over its columns, and its rows. */
export interface RawTable {
  readonly heads: readonly string[];
  readonly rows: readonly TableRow[];
}

const MAX_ROWS = 100_000;
const MAX_COLUMNS = 200;

/** What most likely parts the cells: what stands most often in the line of the heads. */
function separatorOf(text: string): string {
  const head = /^[^\r\n]{0,20000}/.exec(text)![0];
  const times = (separator: string): number => head.split(separator).length;
  return [',', ';', '\t', '|'].toSorted((a, b) => times(b) - times(a))[0]!;
}

/**
 * Reads CSV (any common separator, quotes), a JSON list of objects, or the first table of a Markdown text.
 * @param file how the text is called in errors
 * @throws Failure `json/*` or `table/*` with file and line
 */
export function readRawTable(file: string, given: string): RawTable {
  const text = given.replace(/^\ufeff/, '');
  const { heads, rows } = /^\s*\[/.test(text) ? jsonRows(text, file) : (markdownRows(text) ?? fromCsv(text, file));
  if (heads.length > MAX_COLUMNS) throw new Failure('table/too-large', { file, what: 'columns', limit: MAX_COLUMNS });
  if (rows.length === 0) throw new Failure('table/empty', { file });
  return { heads, rows };
}

/** Lines of a text, blank ones too. */
const MAX_LINES = 1_000_000;

function fromCsv(text: string, file: string): RawTable {
  const lines: TableRow[] = [];
  try {
    for (const { line, cells } of csvRows(text, separatorOf(text), MAX_COLUMNS)) {
      if (cells.length > MAX_COLUMNS) {
        throw new Failure('table/too-large', { file, line, what: 'columns', limit: MAX_COLUMNS });
      }
      if (cells.some((cell) => cell.trim() !== '')) lines.push({ line, cells: cells.map(fromCsvCell) });
      const limit = lines.length > MAX_ROWS ? MAX_ROWS : line > MAX_LINES ? MAX_LINES : undefined;
      if (limit !== undefined) throw new Failure('table/too-large', { file, line, what: 'rows', limit });
    }
  } catch (cause) {
    if (cause instanceof CsvFault) throw new Failure('table/malformed', { file, line: cause.line }, { cause });
    throw cause;
  }
  const [head, ...rows] = lines;
  return { heads: head?.cells ?? [], rows };
}
