import { Failure } from '#core/failure';
import { jsonRows, type TableRow } from '#core/tables';

/** A table as it came: what stands over its columns, and its rows. */
export interface RawTable {
  readonly name: string;
  readonly heads: readonly string[];
  readonly rows: readonly TableRow[];
}

/** What most likely parts the cells: what stands most often in the line of the heads. */
function separatorOf(text: string): string {
  const head = text.slice(0, text.search(/\r?\n|$/));
  const times = (separator: string): number => head.split(separator).length;
  return [',', ';', '\t', '|'].toSorted((a, b) => times(b) - times(a))[0]!;
}

/**
 * Reads CSV (any common separator, quotes) or a JSON list of objects.
 * @param name how the text is called in errors
 * @throws Failure `json/*` or `table/*` with file and line
 */
export async function readRawTable(name: string, given: string): Promise<RawTable> {
  const text = given.replace(/^\ufeff/, '');
  if (/^\s*\[/.test(text)) return { name, ...jsonRows(text, name) };
  const { default: Papa } = await import('papaparse');
  const lines: TableRow[] = [];
  let line = 1;
  Papa.parse<string[]>(text, {
    delimiter: separatorOf(text),
    step({ data, errors }) {
      const broken = errors.find(({ type }) => type === 'Quotes');
      if (broken) throw new Failure('table/malformed', { file: name, line, what: broken.code });
      if (data.some((cell) => cell.trim() !== '')) lines.push({ line, cells: data });
      // A cell with line breaks in it makes the next row begin later than the count of rows says.
      line += 1 + data.reduce((sum, cell) => sum + (cell.match(/\n/g)?.length ?? 0), 0);
    },
  });
  const [head, ...rows] = lines;
  if (!head || rows.length === 0) throw new Failure('table/empty', { file: name });
  return { name, heads: head.cells, rows };
}
