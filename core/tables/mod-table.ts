import { asMod, type BuildLabel, type ModId } from '#core/builds';
import {
  type Catalogue,
  type Mod,
  modById,
  needsOf,
  rangeWords,
  type Release,
  type Requirement,
  type Weight,
  WEIGHTS,
} from '#core/mods';
import { type BranchBuild, buildsInRange, parseRange, partsOfCell, rangesOfBuilds } from './ranges';

/** What a column of a table of mods can hold. One row is one release; the releases of a mod stand from old to new. */
export const MOD_FIELDS = [
  'mod',
  'release',
  'builds',
  'requires',
  'optional',
  'conflicts',
  'weight',
  'author',
  'kind',
] as const;
export type ModField = (typeof MOD_FIELDS)[number];
export const NEEDED_FIELDS: readonly ModField[] = ['mod', 'release', 'builds'];

/** The place of each field's column; a field without one is empty in all rows. */
export type ColumnMap = Partial<Record<ModField, number>>;

export interface TableRow {
  /** Line of the file where it begins, from 1. */
  readonly line: number;
  readonly cells: readonly string[];
}

export interface TableFault {
  readonly line: number;
  readonly field: ModField;
  readonly cell: string;
  readonly fault:
    | 'empty'
    | 'too-long'
    | 'no-range'
    | 'no-such-build'
    | 'no-such-mod'
    | 'no-such-release'
    | 'no-such-weight'
    | 'no-such-kind'
    | 'twice'
    | 'two-weights';
}

export interface ModTable {
  readonly mods: readonly Mod[];
  /** Of those of which the table says one. */
  readonly weights: ReadonlyMap<ModId, Weight>;
  /** Where there is one, nothing of the table is to be taken over. */
  readonly faults: readonly TableFault[];
}

const NAMES: Readonly<Record<ModField, RegExp>> = {
  mod: /^(mod|name|title|mod name)$/i,
  release: /^(release|version|file version)$/i,
  builds: /^(builds?|supported builds?|supports|game versions?|runs on)$/i,
  requires: /^(requires|requirements?|needs|depends on|dependencies)$/i,
  optional: /^(optional|uses|works with|recommends)$/i,
  conflicts: /^(conflicts?( with)?|incompatible( with)?)$/i,
  weight: /^(weight|importance|priority)$/i,
  author: /^(author|by|authors)$/i,
  kind: /^(kind|type|category)$/i,
};

/** Guesses what the columns are by their heads; a person looks it over. */
export function guessColumns(heads: readonly string[]): ColumnMap {
  const map: ColumnMap = {};
  for (const field of MOD_FIELDS) {
    const place = heads.findIndex((head) => NAMES[field].test(head.trim()));
    if (place >= 0) map[field] = place;
  }
  return map;
}

const KINDS: readonly Mod['kind'][] = ['loader', 'library', 'native', 'script', 'data', 'menu', 'texture', 'sound'];
const MAX_NAME = 80;
const MAX_VERSION = 40;

/** An id from a name: letters and digits of it, with dashes between. */
export function idOfName(name: string): ModId {
  const plain = name.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();
  const id = plain.replace(/[^a-z0-9]+/g, '-').replace(/^-+|-+$/g, '');
  return asMod(
    id.slice(0, 60) || `mod-${[...name].map((char) => char.codePointAt(0)!.toString(36)).join('')}`.slice(0, 60),
  );
}

const isOf = <T extends string>(all: readonly T[], text: string): T | undefined =>
  all.find((one) => one === text.toLowerCase());

interface Known {
  readonly catalogue: Catalogue;
  /** From old to new. */
  readonly builds: readonly BranchBuild[];
}

interface Entry {
  readonly row: TableRow;
  readonly id: ModId;
  readonly version: string;
}

/** Reads the rows of a table: every fault is found, not only the first. */
class Reader {
  readonly faults: TableFault[] = [];
  /** Names and ids of all mods that a requirement can speak of. */
  readonly #ids = new Map<string, ModId>();
  readonly #releases = new Map<ModId, string[]>();

  constructor(
    private readonly columns: ColumnMap,
    private readonly known: Known,
  ) {
    for (const { id, name, releases } of known.catalogue.mods) {
      this.#ids.set(name.toLowerCase(), id).set(id, id);
      this.#releases.set(
        id,
        releases.map(({ version }) => version),
      );
    }
  }

  cell({ cells }: TableRow, field: ModField): string {
    const place = this.columns[field];
    return place === undefined ? '' : (cells[place] ?? '').trim();
  }

  fault(row: TableRow, field: ModField, fault: TableFault['fault'], cell = this.cell(row, field)): undefined {
    this.faults.push({ line: row.line, field, cell, fault });
  }

  entries(rows: readonly TableRow[]): Entry[] {
    const seen = new Set<string>();
    return rows.flatMap((row) => {
      const [name, version] = [this.cell(row, 'mod'), this.cell(row, 'release')];
      if (name === '') this.fault(row, 'mod', 'empty');
      else if (name.length > MAX_NAME) this.fault(row, 'mod', 'too-long');
      if (version === '') this.fault(row, 'release', 'empty');
      else if (version.length > MAX_VERSION || /\s/.test(version)) this.fault(row, 'release', 'too-long');
      if (name === '' || version === '') return [];
      const id = this.#ids.get(name.toLowerCase()) ?? idOfName(name);
      this.#ids.set(name.toLowerCase(), id).set(id, id);
      if (seen.has(`${id} ${version}`)) this.fault(row, 'release', 'twice');
      seen.add(`${id} ${version}`);
      const releases = this.#releases.get(id) ?? [];
      if (!releases.includes(version)) this.#releases.set(id, [...releases, version]);
      return [{ row, id, version }];
    });
  }

  builds(row: TableRow): BuildLabel[] {
    const found = new Set<BuildLabel>();
    for (const part of partsOfCell(this.cell(row, 'builds'))) {
      const range = parseRange(part);
      const inside = range && buildsInRange(range, this.known.builds);
      if (!inside) this.fault(row, 'builds', 'no-range', part);
      else if (inside.length === 0) this.fault(row, 'builds', 'no-such-build', part);
      else inside.forEach((build) => found.add(build));
    }
    return this.known.builds.flatMap(({ label }) => (found.has(label) ? [label] : []));
  }

  /** `Name range`, where the name may have blanks in it: the longest that is known is meant. */
  requirement(row: TableRow, field: 'requires' | 'optional' | 'conflicts', text: string): Requirement | undefined {
    const words = text.split(/\s+/);
    for (let length = words.length; length > 0; length--) {
      const id = this.#ids.get(words.slice(0, length).join(' ').toLowerCase());
      if (id === undefined) continue;
      const rest = words.slice(length).join(' ');
      const range = rest === '' ? {} : parseRange(rest);
      if (!range) return this.fault(row, field, 'no-range', text);
      const releases = this.#releases.get(id)!;
      const isKnown = (end: string | undefined): boolean => end === undefined || releases.includes(end);
      if (!isKnown(range.from) || !isKnown(range.to)) return this.fault(row, field, 'no-such-release', text);
      return { mod: id, ...range };
    }
    return this.fault(row, field, 'no-such-mod', text);
  }

  /** Requirements, of which several with a bar between them are alternatives. */
  requires(row: TableRow): Pick<Release, 'requires' | 'requiresOneOf'> {
    const needs = partsOfCell(this.cell(row, 'requires')).map((part) =>
      part.split('|').flatMap((one) => this.requirement(row, 'requires', one.trim()) ?? []),
    );
    return {
      requires: needs.flatMap((need) => (need.length === 1 ? need : [])),
      requiresOneOf: needs.filter((need) => need.length > 1),
    };
  }

  release({ row, version }: Entry): Release {
    const ranges = (field: 'optional' | 'conflicts'): Requirement[] =>
      partsOfCell(this.cell(row, field)).flatMap((part) => this.requirement(row, field, part) ?? []);
    return {
      version,
      date: '1970-01-01',
      builds: this.builds(row),
      brokenOn: [],
      ...this.requires(row),
      optional: ranges('optional'),
      conflicts: ranges('conflicts'),
      reports: [],
      files: [],
    };
  }

  weight(rows: readonly TableRow[]): Weight | undefined {
    let weight: Weight | undefined;
    for (const row of rows) {
      const cell = this.cell(row, 'weight');
      if (cell === '') continue;
      const one = isOf(WEIGHTS, cell.replace(/\s*have$/i, ''));
      if (!one) this.fault(row, 'weight', 'no-such-weight');
      else if (weight !== undefined && weight !== one) this.fault(row, 'weight', 'two-weights');
      weight ??= one;
    }
    return weight;
  }

  kind(row: TableRow): Mod['kind'] | undefined {
    const cell = this.cell(row, 'kind');
    return cell === '' ? undefined : (isOf(KINDS, cell) ?? this.fault(row, 'kind', 'no-such-kind'));
  }
}

/**
 * Reads a table of mods, one release a row. All faults are told with line, field and cell; a table with faults is not to be
 * taken over, though what could be read of it is there to be looked at. A mod of the catalogue, by name or id, keeps its id.
 */
export function readModTable(rows: readonly TableRow[], columns: ColumnMap, known: Known): ModTable {
  const reader = new Reader(columns, known);
  const byMod = new Map<ModId, Entry[]>();
  for (const entry of reader.entries(rows)) byMod.set(entry.id, [...(byMod.get(entry.id) ?? []), entry]);
  const weights = new Map<ModId, Weight>();
  const mods = [...byMod].map(([id, entries]): Mod => {
    const first = entries[0]!.row;
    const same = modById(known.catalogue, id);
    const weight = reader.weight(entries.map(({ row }) => row));
    if (weight) weights.set(id, weight);
    return {
      id,
      name: same?.name ?? reader.cell(first, 'mod'),
      author: reader.cell(first, 'author') || (same?.author ?? ''),
      kind: reader.kind(first) ?? same?.kind ?? 'script',
      lookedAfter: same?.lookedAfter ?? true,
      summary: same?.summary ?? '',
      releases: entries.map((entry) => reader.release(entry)),
    };
  });
  return { mods, weights, faults: reader.faults };
}

/** The table of some mods; {@link readModTable} reads the same releases, builds, requirements and weights back. */
export function modTable(
  mods: readonly Mod[],
  weights: ReadonlyMap<ModId, Weight>,
  { catalogue, builds }: Known,
): { fields: readonly ModField[]; data: string[][] } {
  const nameOf = (id: ModId): string => {
    const name = modById(catalogue, id)?.name ?? mods.find((mod) => mod.id === id)?.name ?? id;
    // A name with what parts a cell in it would not be read back.
    return /[;,|]/.test(name) ? id : name;
  };
  const words = ({ mod, ...range }: Requirement): string =>
    range.from === undefined && range.to === undefined
      ? nameOf(mod)
      : `${nameOf(mod)} ${rangeWords({ mod, ...range })}`;
  const data = mods.flatMap(({ id, name, author, kind, releases }) =>
    releases.map((release) => [
      name,
      release.version,
      rangesOfBuilds(release.builds, builds),
      needsOf(release)
        .map((need) => need.map(words).join(' | '))
        .join('; '),
      release.optional.map(words).join('; '),
      release.conflicts.map(words).join('; '),
      weights.get(id) ?? '',
      author,
      kind,
    ]),
  );
  return { fields: MOD_FIELDS, data };
}
