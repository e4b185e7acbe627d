import type { Catalogue, Mod } from '#core/mods';

/** The mods' names by id. */
export const modNames = (catalogue: Catalogue): ReadonlyMap<string, string> =>
  new Map(catalogue.mods.map(({ id, name }) => [id, name]));

export function authorWords({ author, lookedAfter }: Mod): string {
  if (author === '') return 'Nobody has said who made it.';
  return `By ${author}${lookedAfter ? '' : ', who no longer looks after it'}.`;
}
