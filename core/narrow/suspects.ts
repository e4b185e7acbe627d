/* Why a mod is suspected before the first start: what has changed since the game last ran, and what is known of it. */

export const SIGNS = ['named', 'changed', 'doubtful', 'touched'] as const;
/**
 * `named`: the last log says that it did not load. `changed`: it is new since the game last ran, or at another release. `doubtful`: no
 * evidence says that it runs at this build. `touched`: the patch changed files that it uses.
 */
export type Sign = (typeof SIGNS)[number];

/** How much more suspicious a mod is by each sign, as a factor: what the game says itself counts most. */
const FACTORS: Readonly<Record<Sign, number>> = { named: 8, changed: 5, doubtful: 3, touched: 2 };

/** How suspicious a mod is in relation to one of which nothing is known. */
export const weightOf = (signs: readonly Sign[]): number => signs.reduce((weight, sign) => weight * FACTORS[sign], 1);

/** A release of a mod in a folder. */
export type InFolder = readonly [mod: string, release: string];

/** What became of the mods of a folder since the game last ran with them. */
export function changedSince(
  ran: readonly InFolder[],
  now: readonly InFolder[],
): { readonly added: string[]; readonly updated: string[]; readonly gone: string[] } {
  const [before, after] = [new Map(ran), new Map(now)];
  return {
    added: [...after.keys()].filter((mod) => !before.has(mod)),
    updated: [...after].flatMap(([mod, release]) => (before.has(mod) && before.get(mod) !== release ? [mod] : [])),
    gone: [...before.keys()].filter((mod) => !after.has(mod)),
  };
}
