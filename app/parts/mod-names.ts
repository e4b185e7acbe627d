import type { ModMove } from '#core/mend';
import { type Catalogue, type Mod, rangeWords, type Requirement } from '#core/mods';

/** The mods' names by id. */
export const modNames = (catalogue: Catalogue): ReadonlyMap<string, string> =>
  new Map(catalogue.mods.map(({ id, name }) => [id, name]));

export function authorWords({ author, lookedAfter }: Mod): string {
  if (author === '') return 'Unknown author.';
  return `By ${author}${lookedAfter ? '' : ', who no longer maintains it'}.`;
}

/** A mod with the range of its releases, where not any will do: `Some loader 1.12 to 1.14`. */
export function rangeOfMod(range: Requirement, names: ReadonlyMap<string, string>): string {
  const name = names.get(range.mod) ?? range.mod;
  return range.from === undefined && range.to === undefined ? name : `${name} ${rangeWords(range)}`;
}

/** `Towline 1.14 → 2.2`, `Sextant 1.1 out`, `Deck physics 2.1 in`. */
export function moveWords({ from, to }: Pick<ModMove, 'from' | 'to'>, name: string): string {
  if (to === undefined) return `${name} ${from} out`;
  return from === undefined ? `${name} ${to} in` : `${name} ${from} → ${to}`;
}
