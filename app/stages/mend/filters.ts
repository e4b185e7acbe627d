import { type ModId } from '#core/builds';
import type { WorkItem } from '#core/mend';
import { modById } from '#core/mods';
import type { MendView } from '~/queries';

/** What of the work list is shown. */
export const FILTERS = ['all', 'to-do', 'update', 'touched', 'in-doubt', 'choice', 'unmaintained', 'done'] as const;
export type Filter = (typeof FILTERS)[number];

type Seen = Pick<MendView, 'catalogue' | 'touched' | 'undecided'>;

const LETS: Record<Filter, (item: WorkItem, view: Seen) => boolean> = {
  all: () => true,
  'to-do': ({ state }) => state !== 'done',
  update: ({ action, state }) => action === 'update' && state !== 'done',
  touched: ({ mod }, { touched }) => (touched.get(mod)?.length ?? 0) > 0,
  'in-doubt': ({ verdict }) => verdict === 'in doubt',
  choice: ({ mod }, { undecided }) => undecided.has(mod),
  unmaintained: ({ mod }, { catalogue }) => modById(catalogue, mod)?.lookedAfter === false,
  done: ({ state }) => state === 'done',
};

/** The items that a filter lets through, of those whose name has the words, in their order. */
export function filtered(
  items: readonly WorkItem[],
  filter: Filter,
  view: Seen,
  { words, names }: { readonly words: string; readonly names: ReadonlyMap<string, string> },
): WorkItem[] {
  const wanted = words.trim().toLowerCase();
  return items.filter(
    (item) => LETS[filter](item, view) && (names.get(item.mod) ?? item.mod).toLowerCase().includes(wanted),
  );
}

export const countOf = (items: readonly WorkItem[], filter: Filter, view: Seen): number =>
  items.filter((item) => LETS[filter](item, view)).length;

/** The step that is to be taken next: the first one that can be, and of those that want a choice none before the others. */
export function nextStep(items: readonly WorkItem[], { undecided }: Pick<Seen, 'undecided'>): WorkItem | undefined {
  const open = items.filter(({ state }) => state === 'open');
  return open.find(({ mod }) => !undecided.has(mod)) ?? open[0];
}

/** Mods in the order in which they are brought back in groups: must-haves first, otherwise as the work list has them. */
export function byWeight(mods: readonly ModId[], { weights }: Pick<MendView, 'weights'>): ModId[] {
  const rank = { must: 0, want: 1, spare: 2 } as const;
  const of = (mod: ModId): number => rank[weights.get(mod) ?? 'want'];
  return mods.toSorted((a, b) => of(a) - of(b));
}
