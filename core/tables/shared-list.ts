import type { ModId } from '#core/builds';
import { type Catalogue, type Mod, releaseAt, type Weight, WEIGHTS } from '#core/mods';
import { shortenMiddle } from '#core/text';
import { nameKey } from './mod-ids';
import type { TableRow } from './mod-table';

/* The list of mods that a person publishes: what they play with, at which build, for others to play the same. */

/** What a mod is in the list for; `needed` by others alone. */
export type Role = Weight | 'needed';

export const ROLE_WORDS: Record<Role, string> = {
  ...{ must: 'must have', want: 'want', spare: 'spare' },
  needed: 'needed by others',
};

const FIELDS = ['mod', 'release', 'build', 'role', 'source'] as const;
type Field = (typeof FIELDS)[number];

/** A line of such a list. */
export type ListedMod = Readonly<Record<Exclude<Field, 'role'>, string>> & { readonly role: Role };

export const listCells = (listed: readonly ListedMod[]): { fields: readonly Field[]; data: string[][] } => ({
  fields: FIELDS,
  data: listed.map((one) => FIELDS.map((field) => (field === 'role' ? ROLE_WORDS[one.role] : one[field]))),
});

/** A bar within a cell would end it. */
const cell = (text: string): string => text.replace(/[|\\]/g, '\\$&').replace(/\s+/g, ' ').trim();

/** A row of a Markdown table. */
export const markdownRow = (cells: readonly string[]): string => `| ${cells.map(cell).join(' | ')} |`;

/** The list as Markdown, under a heading. {@link markdownRows} reads its rows back. */
export function listMarkdown(title: string, listed: readonly ListedMod[]): string {
  const { fields, data } = listCells(listed);
  const heads = fields.map((field) => field[0]!.toUpperCase() + field.slice(1));
  return [
    `## ${title}`,
    '',
    markdownRow(heads),
    markdownRow(fields.map(() => '---')),
    ...data.map(markdownRow),
    '',
  ].join('\n');
}

const isRow = (line: string): boolean => /^\s*\|.*\|\s*$/.test(line);
const isRule = (cells: readonly string[]): boolean => cells.every((one) => /^:?-+:?$/.test(one));

function markdownCells(line: string): string[] {
  const inner = line.trim().slice(1, -1);
  const cells: string[] = [''];
  for (let at = 0; at < inner.length; at++) {
    const sign = inner[at]!;
    if (sign === '\\' && at + 1 < inner.length) cells[cells.length - 1] += inner[++at]!;
    else if (sign === '|') cells.push('');
    else cells[cells.length - 1] += sign;
  }
  return cells.map((one) => one.trim());
}

/**
 * The first table of a Markdown text (as in the tables extension of GitHub Flavored Markdown), by rows with their lines from 1;
 * undefined where it has none. What stands around the table is passed over.
 */
export function markdownRows(text: string): { heads: string[]; rows: TableRow[] } | undefined {
  const lines = text.split(/\r?\n/);
  const head = lines.findIndex(
    (line, i) => isRow(line) && isRow(lines[i + 1] ?? '') && isRule(markdownCells(lines[i + 1]!)),
  );
  if (head < 0) return undefined;
  const rows: TableRow[] = [];
  for (let i = head + 2; i < lines.length && isRow(lines[i]!); i++)
    rows.push({ line: i + 1, cells: markdownCells(lines[i]!) });
  return { heads: markdownCells(lines[head]!), rows };
}

/** A line of a list that was read, and whether what it speaks of is known here. */
export interface ReadListed {
  readonly line: number;
  readonly name: string;
  readonly release: string;
  readonly build: string;
  readonly role: Role;
  readonly source: string;
  readonly mod: ModId | undefined;
  /** The release is known too. */
  readonly isKnown: boolean;
}

const MOST_TOLD = 120;

/** Whether the heads of a table are those of such a list, in whatever order; a table of what mods need is another one. */
export function isSharedList(heads: readonly string[]): boolean {
  const all = new Set(heads.map((head) => head.trim().toLowerCase()));
  return FIELDS.every((field) => all.has(field)) && !all.has('requires') && !all.has('weight');
}

/** Reads the rows of a list. A role that nobody knows is a wish; a mod is known by its name or its id. */
export function readSharedList(
  heads: readonly string[],
  rows: readonly TableRow[],
  catalogue: Catalogue,
): ReadListed[] {
  const place = new Map(heads.map((head, i) => [head.trim().toLowerCase(), i]));
  const byName = new Map<string, Mod>();
  for (const mod of catalogue.mods) byName.set(mod.id, mod);
  for (const mod of catalogue.mods) byName.set(nameKey(mod.name), mod);
  const roles: readonly Role[] = [...WEIGHTS, 'needed'];
  return rows.flatMap(({ line, cells }): ReadListed[] => {
    const of = (field: Field): string => shortenMiddle((cells[place.get(field)!] ?? '').trim(), MOST_TOLD);
    const name = of('mod');
    if (name === '') return [];
    const mod = byName.get(nameKey(name)) ?? byName.get(name);
    const said = of('role').toLowerCase();
    const role = roles.find((one) => one === said || ROLE_WORDS[one] === said) ?? 'want';
    const [release, build, source] = [of('release'), of('build'), of('source')];
    const isKnown = mod !== undefined && releaseAt(mod, release) !== undefined;
    return [{ line, name, release, build, role, source, mod: mod?.id, isKnown }];
  });
}
