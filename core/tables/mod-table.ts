import { type BuildLabel, BuildLabelSchema, compareLabels, type ModId } from '#core/builds';
import {
  type Catalogue,
  inRange,
  type Mod,
  modById,
  needsOf,
  rangeWords,
  type Release,
  type Requirement,
  type Weight,
  WEIGHTS,
} from '#core/mods';
import { shortenMiddle } from '#core/text';
import { idOfName, markedId, nameKey } from './mod-ids';
import { type BranchBuild, buildsInRange, labelsWithBlanks, parseRange, partsOfCell, rangesOfBuilds } from './ranges';

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
    | 'too-many-parts'
    | 'no-range'
    | 'no-such-build'
    | 'no-such-mod'
    | 'no-such-release'
    | 'no-such-weight'
    | 'no-such-kind'
    | 'twice'
    | 'two-weights';
}

/** A name that would be taken for another one by its id. */
export interface AlikeName {
  readonly line: number;
  readonly name: string;
  /** The name that has the id: of the catalogue, or of a row above. */
  readonly other: string;
}

/** What a person says of names that are alike, by {@link nameKey}: the same mod, or one apart. */
export type DecidedNames = ReadonlyMap<string, 'same' | 'apart'>;

export interface ModTable {
  readonly mods: readonly Mod[];
  /** Of those of which the table says one. */
  readonly weights: ReadonlyMap<ModId, Weight>;
  /** The first {@link MOST_FAULTS}. Where there is one, nothing of the table is to be taken over. */
  readonly faults: readonly TableFault[];
  readonly faultCount: number;
  /** Names of which a person has to say whether they are one mod. Until then nothing is to be taken over either. */
  readonly alike: readonly AlikeName[];
  /** Labels of builds that nobody knows, oldest first. */
  readonly unknownBuilds: readonly BuildLabel[];
  /** Lines with a fault. */
  readonly badLines: ReadonlySet<number>;
}

export const MOST_FAULTS = 1000;
/** Parts of one cell: builds, requirements. */
const MOST_PARTS = 500;

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
/** Builds that are offered to be declared. */
const MOST_UNKNOWN = 100;
const MAX_NAME = 80;
const MAX_VERSION = 40;
/** Characters of a cell that are told of a fault. */
const MOST_TOLD = 120;

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
  readonly badLines = new Set<number>();
  /** Labels that builds are called by that nobody knows. */
  readonly unknownBuilds = new Set<BuildLabel>();
  faultCount = 0;
  readonly alike: AlikeName[] = [];
  /** By names, as they are compared, and by ids: all mods that a requirement can speak of. */
  readonly #ids = new Map<string, ModId>();
  readonly #names = new Map<ModId, string>();
  readonly #releases = new Map<ModId, Set<string>>();
  readonly #blanks: readonly string[];
  readonly #asked = new Set<string>();

  constructor(
    private readonly columns: ColumnMap,
    private readonly known: Known,
    private readonly decided: DecidedNames,
  ) {
    this.#blanks = labelsWithBlanks(known.builds.map(({ label }) => label));
    for (const { id, name, releases } of known.catalogue.mods) {
      this.#note(name, id);
      this.#releases.set(id, new Set(releases.map(({ version }) => version)));
    }
  }

  #note(name: string, id: ModId): void {
    this.#ids.set(nameKey(name), id).set(id, id);
    if (!this.#names.has(id)) this.#names.set(id, name);
  }

  cell({ cells }: TableRow, field: ModField): string {
    const place = this.columns[field];
    return place === undefined ? '' : (cells[place] ?? '').trim();
  }

  fault(row: TableRow, field: ModField, fault: TableFault['fault'], cell = this.cell(row, field)): undefined {
    this.faultCount += 1;
    this.badLines.add(row.line);
    if (this.faults.length < MOST_FAULTS) {
      this.faults.push({ line: row.line, field, cell: shortenMiddle(cell, MOST_TOLD), fault });
    }
  }

  /** The id of a name, or of an id that stands in its place. A name that is alike another's is asked about. */
  #idOf({ line }: TableRow, name: string): ModId {
    const known = this.#ids.get(nameKey(name)) ?? this.#ids.get(name);
    const id = known ?? idOfName(name);
    const other = this.#names.get(id);
    if (other === undefined || name === id || nameKey(other) === nameKey(name)) return id;
    const decision = this.decided.get(nameKey(name));
    if (decision === 'apart') return markedId(name);
    if (decision === undefined && !this.#asked.has(nameKey(name))) {
      this.#asked.add(nameKey(name));
      this.alike.push({ line, name, other });
    }
    return id;
  }

  entries(rows: readonly TableRow[]): Entry[] {
    const seen = new Set<string>();
    return rows.flatMap((row) => {
      const [name, version] = [this.cell(row, 'mod'), this.cell(row, 'release')];
      if (name === '') this.fault(row, 'mod', 'empty');
      else if (name.length > MAX_NAME) this.fault(row, 'mod', 'too-long');
      if (version === '') this.fault(row, 'release', 'empty');
      else if (version.length > MAX_VERSION || /\s/.test(version)) this.fault(row, 'release', 'too-long');
      if (name === '' || version === '' || name.length > MAX_NAME || version.length > MAX_VERSION) return [];
      const id = this.#idOf(row, name);
      this.#note(name, id);
      if (seen.has(`${id} ${version}`)) this.fault(row, 'release', 'twice');
      seen.add(`${id} ${version}`);
      const releases = this.#releases.get(id) ?? new Set();
      this.#releases.set(id, releases.add(version));
      return [{ row, id, version }];
    });
  }

  /** Parts of a cell; none of one that has too many. */
  #parts(row: TableRow, field: ModField): string[] {
    const cell = this.cell(row, field);
    const parts = partsOfCell(cell, MOST_PARTS);
    if (parts) return parts;
    this.fault(row, field, 'too-many-parts');
    return [];
  }

  builds(row: TableRow): BuildLabel[] {
    const found = new Set<BuildLabel>();
    for (const part of this.#parts(row, 'builds')) {
      const range = parseRange(part, this.#blanks);
      const inside = range && buildsInRange(range, this.known.builds);
      if (!inside) this.fault(row, 'builds', 'no-range', part);
      else if (inside.length === 0) {
        this.fault(row, 'builds', 'no-such-build', part);
        for (const end of new Set([range?.from, range?.to])) this.#missing(end);
      } else inside.forEach((build) => found.add(build));
    }
    return this.known.builds.flatMap(({ label }) => (found.has(label) ? [label] : []));
  }

  #missing(end: string | undefined): void {
    const { data } = BuildLabelSchema.safeParse(end);
    if (data !== undefined && !/[x*]$/i.test(data) && this.unknownBuilds.size < MOST_UNKNOWN)
      this.unknownBuilds.add(data);
  }

  /** `Name range`, where the name may have blanks in it: the longest that is known is meant. */
  requirement(row: TableRow, field: 'requires' | 'optional' | 'conflicts', text: string): Requirement | undefined {
    // What stands behind the longest name that there can be is a range, however long it is.
    const ends = [...text.slice(0, MAX_NAME + 1).matchAll(/\s+|$/g)].map(({ index }) => index);
    if (text.length > MAX_NAME) ends.pop();
    for (const end of ends.toReversed()) {
      const name = text.slice(0, end);
      const id = this.#ids.get(nameKey(name)) ?? this.#ids.get(name);
      if (id === undefined) continue;
      const rest = text.slice(end).trim();
      const range = rest === '' ? {} : parseRange(rest);
      if (!range) return this.fault(row, field, 'no-range', text);
      // An end that the catalogue has no longer is placed by its spelling; a range that holds no release is a slip.
      const releases = [...this.#releases.get(id)!].map((version) => ({ version }));
      const holdsOne = releases.some(({ version }) => inRange({ releases }, version, { mod: id, ...range }));
      if (!holdsOne) return this.fault(row, field, 'no-such-release', text);
      return { mod: id, ...range };
    }
    return this.fault(row, field, 'no-such-mod', text);
  }

  /** Requirements, of which several with a bar between them are alternatives. */
  requires(row: TableRow): Pick<Release, 'requires' | 'requiresOneOf'> {
    const needs = this.#parts(row, 'requires').map((part) =>
      part.split('|', MOST_PARTS).flatMap((one) => this.requirement(row, 'requires', one.trim()) ?? []),
    );
    return {
      requires: needs.flatMap((need) => (need.length === 1 ? need : [])),
      requiresOneOf: needs.filter((need) => need.length > 1),
    };
  }

  release({ row, version }: Entry): Release {
    const ranges = (field: 'optional' | 'conflicts'): Requirement[] =>
      this.#parts(row, field).flatMap((part) => this.requirement(row, field, part) ?? []);
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
 * @param decided what a person said of names that were told to be alike before
 */
export function readModTable(
  rows: readonly TableRow[],
  columns: ColumnMap,
  known: Known,
  decided: DecidedNames = new Map(),
): ModTable {
  const reader = new Reader(columns, known, decided);
  const byMod = new Map<ModId, Entry[]>();
  for (const entry of reader.entries(rows)) {
    const entries = byMod.get(entry.id);
    if (entries) entries.push(entry);
    else byMod.set(entry.id, [entry]);
  }
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
  const { faults, faultCount, alike } = reader;
  const unknownBuilds = [...reader.unknownBuilds].toSorted(compareLabels);
  return { mods, weights, faults, faultCount, alike, unknownBuilds, badLines: reader.badLines };
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
