import { changedBy, type Decide, type Decision, type Difference, Differences } from './difference';
import { mergedOrder } from './names';

/* Tables, cell by cell: rows are told apart by one column or several of which every row has other cells. */

/** A table in its text. */
export interface Table {
  readonly heads: readonly string[];
  /** Rows. */
  readonly length: number;
  /** A row as it is written. */
  readonly row: (row: number) => string;
  /** A cell as it is meant, whatever its quotes. */
  readonly cell: (row: number, column: number) => string;
}

/** A column of a merge: its name there, and its place in each side, -1 where it has none. */
export interface MergedColumn {
  readonly name: string;
  readonly ours: number;
  readonly theirs: number;
}

/** A row of a merge: its place in each side, -1 where it has none, and the columns whose cells are not those of ours. */
export interface MergedRow {
  readonly ours: number;
  readonly theirs: number;
  readonly others: ReadonlyMap<number, Exclude<Decision, 'ours'>>;
}

export interface MergedTable {
  /** The columns that tell rows apart. */
  readonly key: readonly string[];
  readonly differences: readonly Difference[];
  readonly isOpen: boolean;
  readonly columns: readonly MergedColumn[];
  readonly rows: readonly MergedRow[];
}

/** Rows that are looked at to see whether a column has only been given another name. */
const ROWS_COMPARED = 1000;
/** Of their cells so many have to be the same. */
const SAME_CELLS = 0.9;
const NONE: MergedRow['others'] = new Map();
/** Columns that are tried in pairs, where none tells rows apart by itself. */
const PAIRED_COLUMNS = 5;

/** A table whose columns go by the names that they had in the base. */
class Side {
  /** By the name in the base, or their own. */
  readonly columns = new Map<string, number>();
  /** By their keys. */
  rows: ReadonlyMap<string, number> = new Map();
  #lastRows: { readonly key: string; readonly rows: Map<string, number> } | undefined;

  constructor(
    readonly table: Table,
    /** By the name here: the one that it had. */
    renamed: ReadonlyMap<string, string> = new Map(),
  ) {
    table.heads.forEach((head, i) => this.columns.set(renamed.get(head) ?? head, i));
  }

  keyOf(row: number, key: readonly string[]): string {
    const [first] = key;
    if (key.length === 1) return this.table.cell(row, this.columns.get(first!)!);
    return key.map((name) => this.table.cell(row, this.columns.get(name)!)).join(' / ');
  }

  /** @returns undefined where two rows have one key */
  rowsBy(key: readonly string[]): Map<string, number> | undefined {
    if (!key.every((name) => this.columns.has(name))) return undefined;
    const told = JSON.stringify(key);
    if (this.#lastRows?.key === told) return this.#lastRows.rows;
    const rows = new Map<string, number>();
    for (let row = 0; row < this.table.length; row++) {
      rows.set(this.keyOf(row, key), row);
      if (rows.size <= row) return undefined;
    }
    this.#lastRows = { key: told, rows };
    return rows;
  }

  cell(row: number | undefined, column: string): string | undefined {
    const at = this.columns.get(column);
    return row === undefined || at === undefined ? undefined : this.table.cell(row, at);
  }
}

/** Columns that one side has given another name: cells of a new one are those of one that is gone. */
function renamedColumns(base: Side, table: Table): Map<string, string> {
  const side = new Side(table);
  const [gone, come] = [
    base.table.heads.filter((head) => !side.columns.has(head)),
    table.heads.filter((head) => !base.columns.has(head)),
  ];
  const renamed = new Map<string, string>();
  if (gone.length === 0 || come.length === 0) return renamed;
  const key = keyOf([base, side]);
  if (!key) return renamed;
  const there = side.rowsBy(key)!;
  const both = [...base.rowsBy(key)!].filter(([name]) => there.has(name)).slice(0, ROWS_COMPARED);
  if (both.length === 0) return renamed;
  for (const now of come) {
    const same = (was: string): number =>
      both.filter(([name, row]) => base.cell(row, was) === side.cell(there.get(name), now)).length / both.length;
    const fits = gone.filter((was) => same(was) >= SAME_CELLS);
    if (fits.length === 1 && ![...renamed.values()].includes(fits[0]!)) renamed.set(now, fits[0]!);
  }
  return renamed;
}

/** The first column, or pair of columns, that all have and that tells rows apart in each. */
function keyOf(sides: readonly Side[]): string[] | undefined {
  const all = [...sides[0]!.columns.keys()].filter((name) => sides.every(({ columns }) => columns.has(name)));
  const some = all.slice(0, PAIRED_COLUMNS);
  const pairs = some.flatMap((one, i) => some.slice(i + 1).map((other) => [one, other]));
  return [...all.map((name) => [name]), ...pairs].find((key) => sides.every((side) => side.rowsBy(key)));
}

class TableMerge {
  readonly #found: Differences;

  constructor(
    private readonly base: Side,
    private readonly ours: Side,
    private readonly theirs: Side,
    decide: Decide,
  ) {
    this.#found = new Differences(decide);
  }

  get differences(): readonly Difference[] {
    return this.#found.all;
  }

  get isOpen(): boolean {
    return this.#found.isOpen;
  }

  columns(): MergedColumn[] {
    const { base, ours, theirs } = this;
    const [was, mine, their] = [base, ours, theirs].map(({ columns }) => [...columns.keys()]) as [
      string[],
      string[],
      string[],
    ];
    const left = new Map<string, MergedColumn>();
    for (const column of new Set([...was, ...mine, ...their])) {
      const name = this.#columnName(column);
      const [o, t] = [ours.columns.get(column) ?? -1, theirs.columns.get(column) ?? -1];
      if (name !== undefined) left.set(column, { name, ours: o, theirs: t });
    }
    return mergedOrder(was, mine, their, (column) => left.has(column)).map((column) => left.get(column)!);
  }

  /** What a column is called in the merge; undefined where it is left out. */
  #columnName(column: string): string | undefined {
    const headOf = ({ columns, table }: Side): string | undefined => {
      const at = columns.get(column);
      return at === undefined ? undefined : table.heads[at];
    };
    const [was, mine, their] = [headOf(this.base), headOf(this.ours), headOf(this.theirs)];
    let by = changedBy(was, mine, their);
    if (!by) return mine;
    // Whoever takes a column out does not know what the other one has changed in it.
    const isTakenOut = was !== undefined && (mine === undefined) !== (their === undefined);
    if (isTakenOut && this.#isChangedIn(column, mine === undefined ? this.theirs : this.ours)) by = 'conflict';
    const counts = this.#found.note({ path: [column], what: 'column', base: was, ours: mine, theirs: their, by });
    if (typeof counts === 'object') return counts.value;
    return counts === 'ours' ? mine : their;
  }

  #isChangedIn(column: string, side: Side): boolean {
    if (side.table.heads[side.columns.get(column)!] !== column) return true;
    for (const [key, row] of side.rows) {
      const before = this.base.rows.get(key);
      if (before === undefined || this.base.cell(before, column) !== side.cell(row, column)) return true;
    }
    return false;
  }

  rows(columns: readonly MergedColumn[]): MergedRow[] {
    const { base, ours, theirs } = this;
    const names = [base, ours, theirs].map(({ rows }) => [...rows.keys()]) as [string[], string[], string[]];
    const merged = new Map<string, MergedRow>();
    const all = new Set(names[1]);
    for (const name of [...names[0], ...names[2]]) all.add(name);
    const columnNames = columns.map((column) => this.#nameInBase(column));
    const areAlike = [ours, theirs].every(({ table: { heads } }) => heads.join('\n') === base.table.heads.join('\n'));
    for (const name of all) {
      const row = this.#row(name, columnNames, areAlike);
      if (row) merged.set(name, row);
    }
    return mergedOrder(...names, (name) => merged.has(name)).map((name) => merged.get(name)!);
  }

  #nameInBase({ ours, theirs }: MergedColumn): string {
    const [side, at] = ours >= 0 ? [this.ours, ours] : [this.theirs, theirs];
    for (const [name, column] of side.columns) if (column === at) return name;
    return '';
  }

  #row(name: string, columns: readonly string[], areAlike: boolean): MergedRow | undefined {
    const [b, o, t] = [this.base.rows.get(name), this.ours.rows.get(name), this.theirs.rows.get(name)];
    const row = { ours: o ?? -1, theirs: t ?? -1, others: NONE };
    if (o === undefined || t === undefined) {
      const side = this.#keptWhole(name, [b, o, t]);
      return side && (side === 'ours' ? o : t) !== undefined ? row : undefined;
    }
    // Most rows are the same everywhere.
    if (areAlike && b !== undefined) {
      const [was, mine, their] = [this.base.table.row(b), this.ours.table.row(o), this.theirs.table.row(t)];
      if (was === mine && mine === their) return row;
    }
    const others = new Map<number, Exclude<Decision, 'ours'>>();
    columns.forEach((column, i) => {
      const [was, mine, their] = [this.base.cell(b, column), this.ours.cell(o, column), this.theirs.cell(t, column)];
      // A column that one side alone has comes with its cells.
      if (mine === undefined || their === undefined) return void (mine === undefined && others.set(i, 'theirs'));
      const by = changedBy(was, mine, their);
      if (!by) return;
      const difference = { path: [name, column], what: 'cell', base: was, ours: mine, theirs: their, by } as const;
      const counts = this.#found.note(difference);
      if (counts !== 'ours') others.set(i, counts);
    });
    return { ...row, others };
  }

  /** Of a row that one side alone has, or neither: whose it is then, or that it is left out. */
  #keptWhole(name: string, [b, o, t]: readonly (number | undefined)[]): 'ours' | 'theirs' | undefined {
    const was = this.#told(this.base, b);
    const [mine, their] = [this.#told(this.ours, o), this.#told(this.theirs, t)];
    const isLeft = (side: Side, row: number): boolean =>
      [...this.base.columns.keys()].every((column) => {
        const cell = side.cell(row, column);
        return cell === undefined || cell === this.base.cell(b, column);
      });
    const left =
      o === undefined ? (t === undefined ? undefined : ([this.theirs, t] as const)) : ([this.ours, o] as const);
    const remover = o === undefined ? 'ours' : 'theirs';
    const by = !left
      ? 'alike'
      : b === undefined
        ? o === undefined
          ? 'theirs'
          : 'ours'
        : isLeft(...left)
          ? remover
          : 'conflict';
    const counts = this.#found.note({ path: [name], what: 'row', base: was, ours: mine, theirs: their, by });
    return typeof counts === 'object' ? 'ours' : counts;
  }

  #told({ table }: Side, row: number | undefined): string | undefined {
    return row === undefined ? undefined : table.heads.map((_, column) => table.cell(row, column)).join(', ');
  }
}

/**
 * Merges two tables that were made from a third.
 * @param wished the columns that tell rows apart; they are looked for where none are named, or these do not
 * @returns undefined where no columns do
 */
export function mergeTables(
  [base, ours, theirs]: readonly [Table, Table, Table],
  decide: Decide,
  wished?: readonly string[],
): MergedTable | undefined {
  const before = new Side(base);
  const [own, other] = [ours, theirs].map((table) => new Side(table, renamedColumns(before, table))) as [Side, Side];
  const sides = [before, own, other];
  // Columns that were named do not tell rows apart for ever: a patch may bring two rows that are alike in them.
  const isTold = wished && wished.length > 0 && sides.every((side) => side.rowsBy(wished));
  const key = isTold ? wished : keyOf(sides);
  if (!key) return undefined;
  for (const side of sides) {
    const rows = side.rowsBy(key);
    if (!rows) return undefined;
    side.rows = rows;
  }
  const merge = new TableMerge(before, own, other, decide);
  const columns = merge.columns();
  const rows = merge.rows(columns);
  return { key, columns, rows, differences: merge.differences, isOpen: merge.isOpen };
}
