import { type Journalled, PLACES, treeFolder } from '#core/changes';
import type { FolderEntry } from '#core/folders';
import { isBelow, topFolder } from '#core/paths';
import { contentNameOf } from './names';
import type { Reference } from './references';

/** What a file on the disk is there for. */
export type Purpose =
  /** The game's folder. */
  | { readonly kind: 'game' }
  /** Kept by a change set, so that it can be taken back or made again. */
  | { readonly kind: 'change'; readonly set: string }
  /** Contents that are kept for a reason; one with several reasons is counted with the first. */
  | { readonly kind: 'reference'; readonly id: string }
  /** Contents on their way into the store. */
  | { readonly kind: 'arriving' }
  /** What the store keeps of itself. */
  | { readonly kind: 'records' }
  /** Archives that were packed of keepsakes. */
  | { readonly kind: 'archives' }
  /** Beside the game's folder, but of the game: such as a storefront's record. */
  | { readonly kind: 'beside' }
  /** Nothing refers to it: it can go. */
  | { readonly kind: 'unclaimed' };

export interface Pile {
  readonly purpose: Purpose;
  readonly files: number;
  /** Bytes. */
  readonly bytes: number;
}

export interface Inventory {
  /** In the order in which their purposes are listed above; none is empty but that of the game. */
  readonly piles: readonly Pile[];
  readonly files: number;
  readonly bytes: number;
}

/** Where the version before this one put what it had fetched; nothing uses it any more. */
const FETCHED_BEFORE = 'fetched';

const ORDER: readonly Purpose['kind'][] = [
  ...(['game', 'change', 'reference', 'archives', 'beside', 'arriving', 'records', 'unclaimed'] as const),
];

const nameOf = (purpose: Purpose): string => {
  switch (purpose.kind) {
    case 'change':
      return `change ${purpose.set}`;
    case 'reference':
      return `reference ${purpose.id}`;
    default:
      return purpose.kind;
  }
};

/** What is known of a disk besides its files. */
export interface Known {
  readonly sets: readonly Journalled[];
  /** Ids of sets whose journals cannot be read. */
  readonly unread: readonly string[];
  readonly references: readonly Reference[];
  /** The tree that is the game's folder. */
  readonly current: string;
}

const GAME: Purpose = { kind: 'game' };
const CONTENTS = `${PLACES.contents}/`;
const DIGEST = /^[0-9a-f]{64}$/;

/** Tells of every path what it is there for. */
function purposes({ sets, unread, references, current }: Known): (path: string) => Purpose {
  // What a set keeps of which the journal cannot be read is its own all the same.
  const known = new Set([...sets.map(({ set }) => set.id), ...unread]);
  const setOfTree = new Map<string, string>();
  for (const { set } of sets) {
    for (const step of set.steps) {
      if (step.do !== 'exchange') continue;
      // Of several sets that have to do with a tree it is kept by the last; the one that made it may be gone.
      for (const tree of [step.from, step.to]) setOfTree.set(tree, set.id);
    }
  }
  const reasonOf = new Map<string, Purpose>();
  for (const { id, contents } of references) {
    const purpose: Purpose = { kind: 'reference', id };
    for (const [name] of contents) if (!reasonOf.has(name)) reasonOf.set(name, purpose);
  }
  const game = `${treeFolder(current)}/`;
  const ofSet = (set: string | undefined): Purpose =>
    set !== undefined && known.has(set) ? { kind: 'change', set } : { kind: 'unclaimed' };
  return (path) => {
    // Most files are the game's, or contents: they are told without taking their paths apart.
    if (path.startsWith(game)) return GAME;
    const [place, second = ''] = path.startsWith(CONTENTS) ? [PLACES.contents] : path.split('/', 2);
    switch (place) {
      case PLACES.trees:
      case PLACES.leaving:
        return ofSet(setOfTree.get(second));
      case PLACES.staged:
      case PLACES.kept:
        return ofSet(second);
      case PLACES.contents: {
        return reasonOf.get(contentNameOf(path)) ?? { kind: 'unclaimed' };
      }
      case PLACES.arriving:
        return { kind: 'arriving' };
      case PLACES.journal:
      case PLACES.history:
      case PLACES.references:
        return { kind: 'records' };
      case FETCHED_BEFORE:
        return { kind: 'unclaimed' };
      case PLACES.keepsakes:
        // Lists of keepsakes; the archives beside them are for the person.
        return { kind: path.endsWith('.dat') ? 'records' : 'archives' };
      default:
        // Files at the top are the store's own pointers and locks.
        return { kind: topFolder(path) === '' ? 'records' : 'beside' };
    }
  };
}

/**
 * Says of all that lies on a disk what it is there for. Every file is counted once, so that the sum is the disk's.
 * @param files all of them, the game's folder under the name of its tree
 */
export function inventory(files: readonly FolderEntry[], known: Known): Inventory {
  const purposeOf = purposes(known);
  const piles = new Map<string, { purpose: Purpose; files: number; bytes: number }>();
  piles.set('game', { purpose: { kind: 'game' }, files: 0, bytes: 0 });
  let bytes = 0;
  let last: { of: Purpose; pile: { purpose: Purpose; files: number; bytes: number } } | undefined;
  for (const { path, size } of files) {
    const purpose = purposeOf(path);
    if (last?.of !== purpose) {
      const name = nameOf(purpose);
      const pile = piles.get(name) ?? { purpose, files: 0, bytes: 0 };
      piles.set(name, pile);
      last = { of: purpose, pile };
    }
    last.pile.files += 1;
    last.pile.bytes += size;
    bytes += size;
  }
  const order = ({ purpose }: Pile): number => ORDER.indexOf(purpose.kind);
  return { piles: [...piles.values()].sort((a, b) => order(a) - order(b)), files: files.length, bytes };
}

/**
 * Whether a file that nothing refers to can only be a copy that the store has made: contents lie there under their digests. What
 * lies anywhere else may be somebody's, and is named before it goes.
 */
export const isOwnCopy = ({ path }: FolderEntry): boolean =>
  isBelow(path, PLACES.contents) ? DIGEST.test(contentNameOf(path)) : isBelow(path, FETCHED_BEFORE);

/** What of a disk nothing refers to. */
export function unclaimed(files: readonly FolderEntry[], known: Known): FolderEntry[] {
  const purposeOf = purposes(known);
  return files.filter(({ path }) => purposeOf(path).kind === 'unclaimed');
}
