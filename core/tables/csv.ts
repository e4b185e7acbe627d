/**
 * A cell that a spreadsheet would take for a formula: it begins with a sign that starts one, in either width, or with a
 * blank that is passed over before one. Apostrophes before it count too, so that {@link fromCsvCell} can take one off.
 */
const FORMULA = /^'*[=+\-@\t\r\n\uff1d\uff0b\uff0d\uff20]/;

const NEEDS_QUOTES = /[",\r\n]|^\s|\s$/;

type Cell = string | number | undefined;

function csvCell(cell: Cell): string {
  // A number cannot be a formula, and is to stay one.
  const text = typeof cell === 'string' && FORMULA.test(cell) ? `'${cell}` : String(cell ?? '');
  return NEEDS_QUOTES.test(text) ? `"${text.replaceAll('"', '""')}"` : text;
}

/**
 * CSV (RFC 4180) that no spreadsheet runs anything of: what looks like a formula gets an apostrophe before it, which
 * spreadsheets show as plain text.
 */
export function toCsv(fields: readonly string[], rows: Iterable<readonly Cell[]>): string {
  let text = '';
  for (const row of [fields, ...rows]) text += `${row.map(csvCell).join(',')}\r\n`;
  return text;
}

/** A cell as it was before {@link toCsv} made it harmless. */
export const fromCsvCell = (cell: string): string => (/^'/.test(cell) && FORMULA.test(cell) ? cell.slice(1) : cell);

/** A row of a text, and the line at which it begins, from 1. */
export interface CsvRow {
  readonly line: number;
  readonly cells: string[];
}

/** Is thrown for a quotation mark that opens no cell and closes none. */
export class CsvFault extends Error {
  constructor(readonly line: number) {
    super('quotation mark');
  }
}

const isLineEnd = (sign: string | undefined): boolean => sign === '\n' || sign === '\r';

/**
 * The rows of a CSV text (RFC 4180, with any separator, and line ends of any system), as they are taken: a reader who has
 * seen enough stops. The inverse of {@link toCsv} but for what {@link fromCsvCell} undoes.
 * @param most cells of a row; what is behind them is not read
 * @throws CsvFault
 */
export function* csvRows(text: string, separator: string, most: number): Generator<CsvRow> {
  let [at, line] = [0, 1];
  let nextEnd = text.indexOf('\n');
  /** Counts the line ends before `at`, each once. */
  const countLines = (): void => {
    for (; nextEnd >= 0 && nextEnd < at; nextEnd = text.indexOf('\n', nextEnd + 1)) line += 1;
  };
  /** A cell in quotation marks, from behind the first to behind the last of them. */
  const quoted = (): string => {
    const [start, began] = [at, line];
    for (;;) {
      const mark = text.indexOf('"', at);
      if (mark < 0) throw new CsvFault(began);
      at = mark + 1;
      if (text[at] !== '"') break;
      at += 1;
    }
    countLines();
    if (at < text.length && text[at] !== separator && !isLineEnd(text[at])) throw new CsvFault(line);
    return text.slice(start, at - 1).replaceAll('""', '"');
  };
  const plain = (): string => {
    const start = at;
    while (at < text.length && text[at] !== separator && !isLineEnd(text[at])) at++;
    return text.slice(start, at);
  };
  while (at < text.length) {
    const began = line;
    const cells: string[] = [];
    for (;;) {
      if (text[at] === '"') {
        at += 1;
        cells.push(quoted());
      } else cells.push(plain());
      if (text[at] !== separator || cells.length > most) break;
      at += 1;
    }
    yield { line: began, cells };
    if (text[at] === '\r' && text[at + 1] === '\n') at += 1;
    const isBare = text[at] === '\r';
    at += 1;
    countLines();
    // A line end of a system that has no line feeds.
    if (isBare) line += 1;
  }
}
