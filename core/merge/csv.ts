import { pathKey, type StructuredMerge, unlessUnchanged, type ValueChange } from './keyed';

/*
 * Tables with a row of heads, cells parted by a sign (RFC 4180 with other signs as well), rows told apart by a column of which every cell is
 * another one. Cells are brought over one by one; the text of those that stay is kept as it is.
 */

interface Row {
  /** Cells as they are written, with their quotes. */
  readonly raw: string[];
  readonly end: string;
}

interface Table {
  readonly heads: readonly string[];
  readonly headRow: Row;
  readonly rows: readonly Row[];
}

const SIGNS = [',', ';', '\t', '|'] as const;

const plain = (raw: string): string => (/^\s*"/.test(raw) ? raw.trim().slice(1, -1).replaceAll('""', '"') : raw);

/** The rows of a text; undefined where a quote is not closed. */
function rowsOf(text: string, sign: string): Row[] | undefined {
  const rows: Row[] = [];
  let raw: string[] = [];
  let start = 0;
  let isQuoted = false;
  for (let i = 0; i <= text.length; i++) {
    const char = text[i];
    if (char === '"') isQuoted = !isQuoted;
    if (isQuoted && char !== undefined) continue;
    if (char !== sign && char !== '\n' && char !== undefined) continue;
    if (char === undefined && raw.length === 0 && start === i) break;
    const isEnd = char === '\n' && text[i - 1] === '\r' && i > start;
    raw.push(text.slice(start, isEnd ? i - 1 : i));
    start = i + 1;
    if (char === sign) continue;
    rows.push({ raw, end: char === undefined ? '' : isEnd ? '\r\n' : '\n' });
    raw = [];
  }
  return isQuoted ? undefined : rows;
}

/** The sign that parts the heads most often. */
const signOf = (text: string): string => {
  const head = text.slice(0, text.search(/[\r\n]|$/));
  return SIGNS.reduce((best, sign) => (head.split(sign).length > head.split(best).length ? sign : best), SIGNS[0]);
};

/** @returns undefined for what is no table with heads of which each is another one, and no row longer or shorter than them */
function tableOf(text: string, sign: string): Table | undefined {
  const [headRow, ...rows] = rowsOf(text, sign) ?? [];
  if (!headRow || headRow.raw.length < 2) return undefined;
  const heads = headRow.raw.map((raw) => plain(raw).trim());
  if (new Set(heads).size < heads.length || rows.some(({ raw }) => raw.length !== heads.length)) return undefined;
  return { heads, headRow, rows };
}

/** The first column that all have, of which in each no two cells are the same. */
const keyColumn = (tables: readonly Table[]): string | undefined =>
  tables[0]!.heads.find((head) =>
    tables.every(({ heads, rows }) => {
      const column = heads.indexOf(head);
      return column >= 0 && new Set(rows.map(({ raw }) => plain(raw[column]!))).size === rows.length;
    }),
  );

class Keyed {
  readonly rows: ReadonlyMap<string, Row>;

  constructor(
    readonly table: Table,
    key: string,
  ) {
    const column = table.heads.indexOf(key);
    this.rows = new Map(table.rows.map((row) => [plain(row.raw[column]!), row]));
  }

  raw(row: string, head: string): string | undefined {
    return this.rows.get(row)?.raw[this.table.heads.indexOf(head)];
  }

  cell(row: string, head: string): string | undefined {
    const raw = this.raw(row, head);
    return raw === undefined ? undefined : plain(raw);
  }
}

/** The names of one side in the order of the merge: ours without what they removed, what they added behind what it follows there. */
function mergedNames(base: Iterable<string>, ours: Iterable<string>, theirs: Iterable<string>): string[] {
  const [before, own, other] = [new Set(base), new Set(ours), new Set(theirs)];
  const kept = [...own].filter((name) => other.has(name) || !before.has(name));
  const stays = new Set(kept);
  const added = new Map<string | undefined, string[]>();
  let behind: string | undefined;
  for (const name of other) {
    if (stays.has(name)) behind = name;
    else if (!own.has(name) && !before.has(name)) {
      const list = added.get(behind);
      if (list) list.push(name);
      else added.set(behind, [name]);
    }
  }
  return [...(added.get(undefined) ?? []), ...kept.flatMap((name) => [name, ...(added.get(name) ?? [])])];
}

/**
 * Merges two tables that were made from a third, cell by cell.
 * @returns undefined where they are no tables of which rows and columns can be told apart
 */
export const mergeCsv = (base: string, ours: string, theirs: string): StructuredMerge | undefined =>
  unlessUnchanged(base, ours, theirs, () => {
    const sign = signOf(ours);
    const tables = [base, ours, theirs].map((text) => tableOf(text, sign));
    if (!tables.every((table) => table !== undefined)) return undefined;
    const key = keyColumn(tables);
    if (key === undefined) return undefined;
    const [before, own, other] = tables.map((table) => new Keyed(table, key)) as [Keyed, Keyed, Keyed];
    const conflicts: ValueChange[] = [];
    const conflict = (row: string, head: string): void =>
      void conflicts.push({
        path: [row, head],
        ...{ base: before.cell(row, head), ours: own.cell(row, head), theirs: other.cell(row, head) },
      });
    const heads = mergedNames(before.table.heads, own.table.heads, other.table.heads);
    const rows = mergedNames(before.rows.keys(), own.rows.keys(), other.rows.keys());
    // What one side has removed must not have been changed by the other.
    for (const row of before.rows.keys()) {
      const [isOwn, isOther] = [own.rows.has(row), other.rows.has(row)];
      if (isOwn === isOther) continue;
      const left = isOwn ? own : other;
      for (const head of left.table.heads)
        if (before.cell(row, head) !== undefined && left.cell(row, head) !== before.cell(row, head))
          conflict(row, head);
    }
    for (const head of before.table.heads) {
      const [isOwn, isOther] = [own.table.heads.includes(head), other.table.heads.includes(head)];
      if (isOwn === isOther) continue;
      const left = isOwn ? own : other;
      for (const row of rows)
        if (left.cell(row, head) !== undefined && left.cell(row, head) !== before.cell(row, head)) conflict(row, head);
    }
    const wasWritten = new Set(conflicts.map(({ path }) => pathKey(path)));
    const cellOf = (row: string, head: string): string => {
      const [was, mine, their] = [before.cell(row, head), own.cell(row, head), other.cell(row, head)];
      if (mine === undefined) return other.raw(row, head) ?? '';
      if (their === undefined || their === mine || their === was) return own.raw(row, head)!;
      if (mine !== was && !wasWritten.has(pathKey([row, head]))) conflict(row, head);
      return other.raw(row, head)!;
    };
    const end = own.table.headRow.end || '\n';
    const written = rows.map((row) => ({
      cells: heads.map((head) => cellOf(row, head)),
      end: own.rows.get(row)?.end ?? end,
    }));
    if (conflicts.length > 0) return { merged: undefined, conflicts };
    const headCells = heads.map((head) => {
      const at = own.table.heads.indexOf(head);
      return at >= 0 ? own.table.headRow.raw[at]! : other.table.headRow.raw[other.table.heads.indexOf(head)]!;
    });
    const all = [{ cells: headCells, end }, ...written];
    const lines = all.map(
      ({ cells, end: own }, i) => cells.join(sign) + (own === '' && i < all.length - 1 ? end : own),
    );
    const text = lines.join('');
    const endsOpen = !ours.endsWith('\n');
    return { merged: endsOpen ? text.replace(/\r?\n$/, '') : text, conflicts };
  });
