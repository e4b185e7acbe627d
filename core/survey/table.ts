import { fileName, folderOf } from '#core/paths';
import type { FileState, SurveyRow } from './compare';
import { strayGroup, type StrayGroup, type StrayName } from './strays';

export const STATES = ['true', 'altered', 'absent', 'stray', 'unreadable'] as const satisfies readonly FileState[];

/** Stands in `depots` and `whose` for no depot, for nobody. */
export const NOBODY = 0xffff;

/** Survey rows as columns, sorted by path: they cross threads as a handful of values, however many files there are. */
export interface SurveyTable {
  readonly paths: readonly string[];
  /** Places in {@link STATES}. */
  readonly states: Uint8Array;
  /** Bytes on disk; those expected where the file is absent. */
  readonly sizes: Float64Array;
  /** Places in `depotIds`. */
  readonly depots: Uint16Array;
  readonly depotIds: readonly string[];
  /** Places in `groups`: whose the strays and the altered files are. */
  readonly whose: Uint16Array;
  readonly groups: readonly StrayGroup[];
}

/** The place of a value in a growing list of different ones. */
class Places<T> {
  readonly values: T[] = [];
  readonly #places = new Map<string, number>();

  place(value: T, name: string): number {
    let place = this.#places.get(name);
    if (place === undefined) {
      place = this.values.push(value) - 1;
      this.#places.set(name, place);
    }
    return place;
  }
}

export function surveyTable(
  rows: readonly SurveyRow[],
  depotOf: ReadonlyMap<string, string>,
  names: ReadonlyMap<string, StrayName>,
): SurveyTable {
  const depotIds = new Places<string>();
  const groups = new Places<StrayGroup>();
  const placeOf = (path: string): number => {
    const depot = depotOf.get(path);
    return depot === undefined ? NOBODY : depotIds.place(depot, depot);
  };
  const groupOf = (path: string): number => {
    const name = names.get(path);
    const group = name && strayGroup(name);
    return group ? groups.place(group, JSON.stringify(group)) : NOBODY;
  };
  return {
    paths: rows.map(({ path }) => path),
    states: Uint8Array.from(rows, ({ state }) => STATES.indexOf(state)),
    sizes: Float64Array.from(rows, ({ size }) => size),
    depots: Uint16Array.from(rows, ({ path }) => placeOf(path)),
    depotIds: depotIds.values,
    whose: Uint16Array.from(rows, ({ path }) => groupOf(path)),
    groups: groups.values,
  };
}

export interface FilesAndBytes {
  readonly files: number;
  readonly bytes: number;
}

/** Files and bytes for each value of a column of places. */
export function countTable({ sizes }: SurveyTable, column: ArrayLike<number>, values: number): FilesAndBytes[] {
  const counts = Array.from({ length: values }, () => ({ files: 0, bytes: 0 }));
  for (let i = 0; i < column.length; i++) {
    const count = counts[column[i]!];
    if (!count) continue;
    count.files += 1;
    count.bytes += sizes[i]!;
  }
  return counts;
}

/** What is left out shows everything. */
export interface TableFilter {
  /** A place in {@link STATES}. */
  readonly state?: number | undefined;
  /** Only files in this folder or deeper. */
  readonly folder?: string | undefined;
  /** A place in the table's groups. */
  readonly whose?: number | undefined;
  /** A part of the path, in any case. */
  readonly words?: string | undefined;
}

/** The rows that a filter lets through, in the table's order. */
export function filterTable(table: SurveyTable, { state, folder, whose, words }: TableFilter): Uint32Array {
  const { paths, states, whose: groups } = table;
  const needle = words?.toLowerCase() ?? '';
  const prefix = folder === undefined || folder === '' ? '' : `${folder}/`;
  const shown = new Uint32Array(paths.length);
  let count = 0;
  for (let i = 0; i < paths.length; i++) {
    if (state !== undefined && states[i] !== state) continue;
    if (whose !== undefined && groups[i] !== whose) continue;
    const path = paths[i]!;
    if (!path.startsWith(prefix) || (needle !== '' && !path.toLowerCase().includes(needle))) continue;
    shown[count++] = i;
  }
  return shown.slice(0, count);
}

export type SortBy = 'path' | 'size' | 'state' | 'whose';

/** Rows in another order; rows that are equal by it stay in the table's, in either direction. */
export function sortTable(table: SurveyTable, shown: Uint32Array, by: SortBy, descending: boolean): Uint32Array {
  if (by === 'path') return descending ? shown.slice().reverse() : shown;
  const column = { size: table.sizes, state: table.states, whose: table.whose }[by];
  const sign = descending ? -1 : 1;
  return shown.slice().sort((a, b) => sign * (column[a]! - column[b]!) || a - b);
}

/** A folder with all that lies in it, summed by state. */
export interface FolderNode {
  readonly name: string;
  /** Empty for the root. */
  readonly path: string;
  /** By place in {@link STATES}. */
  readonly files: number[];
  readonly bytes: number[];
  readonly folders: Map<string, FolderNode>;
  /** Rows of the files that lie in it directly. */
  readonly own: number[];
}

const emptyNode = (name: string, path: string): FolderNode => ({
  name,
  path,
  files: STATES.map(() => 0),
  bytes: STATES.map(() => 0),
  folders: new Map(),
  own: [],
});

/** The folders of a table as a tree. */
export function folderTree({ paths, states, sizes }: SurveyTable): FolderNode {
  const root = emptyNode('', '');
  const folders = new Map([['', root]]);
  const folderAt = (path: string): FolderNode => {
    const known = folders.get(path);
    if (known) return known;
    const name = fileName(path);
    const made = emptyNode(name, path);
    folderAt(folderOf(path)).folders.set(name, made);
    folders.set(path, made);
    return made;
  };
  let node = root;
  for (let i = 0; i < paths.length; i++) {
    const folder = folderOf(paths[i]!);
    // Neighbours mostly lie in one folder.
    if (folder !== node.path) node = folderAt(folder);
    node.own.push(i);
    node.files[states[i]!]! += 1;
    node.bytes[states[i]!]! += sizes[i]!;
  }
  addBelow(root);
  return root;
}

/** Adds to each folder, which knows of its own files alone, what lies below it. */
function addBelow(node: FolderNode): void {
  for (const below of node.folders.values()) {
    addBelow(below);
    for (const state of STATES.keys()) {
      node.files[state]! += below.files[state]!;
      node.bytes[state]! += below.bytes[state]!;
    }
  }
}
