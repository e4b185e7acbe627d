import type { Owner } from '#core/fetch';

/** Whose copy of a file it is. */
export function ownerWords(owner: Owner, names: ReadonlyMap<string, string>): string {
  switch (owner.kind) {
    case 'depot':
      return 'the game';
    case 'mod':
      return `${names.get(owner.mod) ?? owner.mod} ${owner.release}`;
    case 'written':
      return 'Regressum';
  }
}
