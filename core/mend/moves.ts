import { asMod, type ModId } from '#core/builds';
import { type Catalogue, modById } from '#core/mods';
import type { ModMove } from './work-list';

/** A move that was made, with the mod's name as it was then. */
export interface ToldMove extends ModMove {
  readonly name: string;
}

/** What becomes of mods where the releases of a folder become others, in the catalogue's order. */
export function movesBetween(
  before: ReadonlyMap<ModId, string>,
  after: ReadonlyMap<ModId, string>,
  catalogue: Catalogue,
): ToldMove[] {
  const place = new Map(catalogue.mods.map(({ id }, i) => [id, i]));
  return [...new Set([...before.keys(), ...after.keys()])]
    .filter((mod) => before.get(mod) !== after.get(mod))
    .toSorted((a, b) => (place.get(a) ?? Infinity) - (place.get(b) ?? Infinity))
    .map((mod) => ({
      ...{ mod, name: modById(catalogue, mod)?.name ?? mod },
      ...{ from: before.get(mod), to: after.get(mod) },
    }));
}

const FACT = 'mod:';

/** Moves as facts of a change, one each. */
export const factsOfMoves = (moves: readonly ToldMove[]): Readonly<Record<string, string>> =>
  Object.fromEntries(
    moves.map(({ mod, name, from, to }) => [`${FACT}${mod}`, JSON.stringify([name, from ?? null, to ?? null])]),
  );

/** The moves that a change tells of. What another version has written and nobody can read is left out. */
export function movesOfFacts(facts: Readonly<Record<string, string>>): ToldMove[] {
  return Object.entries(facts).flatMap(([fact, value]): ToldMove[] => {
    if (!fact.startsWith(FACT)) return [];
    let told: unknown;
    try {
      told = JSON.parse(value);
    } catch {
      return [];
    }
    if (!Array.isArray(told) || told.length !== 3 || typeof told[0] !== 'string') return [];
    const version = (one: unknown): string | undefined => (typeof one === 'string' ? one : undefined);
    return [{ mod: asMod(fact.slice(FACT.length)), name: told[0], from: version(told[1]), to: version(told[2]) }];
  });
}
