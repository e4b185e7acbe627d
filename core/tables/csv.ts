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
