import type { Catalogue } from '#core/mods';

/** The mods' names by id. */
export const modNames = (catalogue: Catalogue): ReadonlyMap<string, string> =>
  new Map(catalogue.mods.map(({ id, name }) => [id, name]));
