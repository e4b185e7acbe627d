import type { ShelfView } from '~/queries';

/** A release on the shelf. */
export type Shelved = ShelfView['releases'][number];

export const SHELF_FILTERS = ['all', 'here', 'alone', 'unofficial', 'frozen', 'noted', 'ran', 'can-go'] as const;
export type ShelfFilter = (typeof SHELF_FILTERS)[number];

export const FILTER_WORDS: Record<ShelfFilter, string> = {
  all: 'All releases',
  here: 'In the folder',
  alone: 'To be had nowhere else',
  unofficial: 'Unofficial',
  frozen: 'Frozen',
  noted: 'With your note',
  ran: 'Ran here',
  'can-go': 'Can go',
};

const LETS: Record<ShelfFilter, (release: Shelved) => boolean> = {
  all: () => true,
  here: ({ inFolder }) => inFolder,
  alone: ({ isOffered }) => !isOffered,
  unofficial: ({ unofficial }) => unofficial !== undefined,
  frozen: ({ isFrozen }) => isFrozen,
  noted: ({ words }) => words !== '',
  ran: ({ ran }) => ran.length > 0,
  'can-go': ({ inFolder, isWanted, isFrozen, isBenched, isOffered, words }) =>
    isOffered && !inFolder && !isWanted && !isFrozen && !isBenched && words === '',
};

/** The releases that a filter lets through, of those of which mod, version, origin or note has the words. */
export function filtered(releases: readonly Shelved[], filter: ShelfFilter, words: string): Shelved[] {
  const wanted = words.trim().toLowerCase();
  return releases.filter((release) => {
    const { name, version, from = '', unofficial = '', words: own } = release;
    return LETS[filter](release) && `${name} ${version} ${from} ${unofficial} ${own}`.toLowerCase().includes(wanted);
  });
}
