import type { ModId } from '#core/builds';
import { type BuildChoice, changesOf, choiceDifferences, type Loss, type ModChange } from '#core/choose';
import { type Mod, modById, type Weight } from '#core/mods';
import type { ChooseView } from '~/queries';

/** A mod on the board, with what becomes of it at the build that is looked at. */
export interface BoardRow {
  readonly mod: Mod;
  /** Undefined for one that only comes in because another needs it. */
  readonly weight: Weight | undefined;
  readonly onDisk: string | undefined;
  readonly chosen: string | undefined;
  readonly loss: Loss | undefined;
  readonly change: 'lost' | 'back' | 'forward' | 'new' | 'stays';
}

export type BoardEntry =
  | { readonly kind: 'title'; readonly title: string; readonly mods: number }
  | { readonly kind: 'row'; readonly row: BoardRow };

export const ORDERS = ['layer', 'weight', 'loss', 'author', 'name'] as const;
/** Into which groups rows are put, and in which order. */
export type Order = (typeof ORDERS)[number];

export const WEIGHT_TITLES: Record<Weight, string> = { must: 'Must have', want: 'Want', spare: 'Spare' };

export const CHANGE_TITLES: Record<BoardRow['change'], string> = {
  lost: 'Lost',
  back: 'Rolls back',
  forward: 'Moves forward',
  new: 'Newly added',
  stays: 'Unchanged',
};

const NOT_ASKED_FOR = 'Added as a requirement';

const onDisk = ({ installed }: ChooseView): Map<ModId, string> =>
  new Map(installed.map(({ mod, release }) => [mod, release]));

/** Mods that a build takes back to an earlier release. */
export const rolledBack = (view: ChooseView, choice: BuildChoice): readonly ModChange[] =>
  changesOf(choice, onDisk(view), view.catalogue).back;

/** The person's mods, and those that come in besides, in the catalogue's order. */
export function boardRows(view: ChooseView, choice: BuildChoice): BoardRow[] {
  const { catalogue, weights } = view;
  const releases = onDisk(view);
  const { back, forward } = changesOf(choice, releases, catalogue);
  const changes = new Map<ModId, BoardRow['change']>([
    ...back.map(({ mod }) => [mod, 'back'] as const),
    ...forward.map(({ mod, from }) => [mod, from === undefined ? 'new' : 'forward'] as const),
  ]);
  return catalogue.mods
    .filter(({ id }) => weights.has(id) || choice.runs.has(id))
    .map((mod) => ({
      mod,
      weight: weights.get(mod.id),
      onDisk: releases.get(mod.id),
      chosen: choice.runs.get(mod.id),
      loss: choice.lost.get(mod.id),
      change: choice.runs.has(mod.id) ? (changes.get(mod.id) ?? 'stays') : 'lost',
    }));
}

export interface BoardFilter {
  /** Words of which each has to be in a mod's name, author, kind or releases. */
  readonly words: string;
  /** Only mods that are not at the same release at this build. */
  readonly unlike: BuildChoice | undefined;
}

export function filterRows(rows: readonly BoardRow[], choice: BuildChoice, { words, unlike }: BoardFilter): BoardRow[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const differing = unlike && new Set(choiceDifferences(choice, unlike).map(({ mod }) => mod));
  return rows.filter(({ mod }) => {
    if (differing && !differing.has(mod.id)) return false;
    const text = [mod.name, mod.author, mod.kind, ...mod.releases.map(({ version }) => version)]
      .join(' ')
      .toLowerCase();
    return wanted.every((word) => text.includes(word));
  });
}

const isBase = ({ mod: { kind } }: BoardRow): boolean => kind === 'loader' || kind === 'library';

const GROUPS: Record<Order, (row: BoardRow) => string> = {
  layer: (row) =>
    row.weight === undefined ? NOT_ASKED_FOR : isBase(row) ? 'Loader and libraries' : WEIGHT_TITLES[row.weight],
  weight: ({ weight }) => (weight === undefined ? NOT_ASKED_FOR : WEIGHT_TITLES[weight]),
  loss: ({ change }) => CHANGE_TITLES[change],
  author: ({ mod }) => mod.author || 'Unknown author',
  name: () => '',
};

/** Titles that stand in this order; all others stand by the alphabet. */
const RANKS = ['Loader and libraries', ...Object.values(WEIGHT_TITLES), NOT_ASKED_FOR, ...Object.values(CHANGE_TITLES)];

/** Rows in groups with titles; within a group by name, but in the catalogue's order where layers matter. */
export function arrange(rows: readonly BoardRow[], order: Order): BoardEntry[] {
  const groups = new Map<string, BoardRow[]>();
  for (const row of rows) {
    const title = GROUPS[order](row);
    groups.set(title, [...(groups.get(title) ?? []), row]);
  }
  const rank = (title: string): number => RANKS.indexOf(title);
  const titles = [...groups.keys()].sort((a, b) => rank(a) - rank(b) || a.localeCompare(b));
  return titles.flatMap((title): BoardEntry[] => {
    const inside = groups.get(title)!;
    const sorted = order === 'layer' ? inside : inside.toSorted((a, b) => a.mod.name.localeCompare(b.mod.name));
    const entries = sorted.map((row): BoardEntry => ({ kind: 'row', row }));
    return title === '' ? entries : [{ kind: 'title', title, mods: inside.length }, ...entries];
  });
}

/** How the selected mod hangs together with another one. */
export interface Thread {
  readonly mod: ModId;
  readonly kind: 'needs' | 'needed-by' | 'keeps-out';
}

/** @returns threads from a mod, by the releases that are chosen; where one is lost, by the one that came closest */
export function threadsOf({ catalogue }: ChooseView, choice: BuildChoice, id: ModId): Thread[] {
  const needs = (of: ModId): ModId[] => {
    const mod = modById(catalogue, of);
    const loss = choice.lost.get(of);
    const version = choice.runs.get(of) ?? (loss && 'release' in loss ? loss.release : undefined);
    const release = mod?.releases.find((one) => one.version === version) ?? mod?.releases.at(-1);
    if (!release) return [];
    return [...release.requires, ...release.requiresOneOf.flat()].map((need) => need.mod);
  };
  const loss = choice.lost.get(id);
  const others = [...choice.runs.keys(), ...choice.lost.keys()];
  return [
    ...needs(id).map((mod): Thread => ({ mod, kind: 'needs' })),
    ...others.filter((other) => needs(other).includes(id)).map((mod): Thread => ({ mod, kind: 'needed-by' })),
    ...(loss?.why === 'conflict' ? [{ mod: loss.with, kind: 'keeps-out' } as const] : []),
  ];
}
