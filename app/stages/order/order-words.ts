import type { ModId } from '#core/builds';
import {
  type BrokenRule,
  type Contest,
  type LoadOrder,
  type OrderedPair,
  type OrderRule,
  type StatedRule,
  winnerOf,
} from '#core/mods';

export type Names = ReadonlyMap<string, string>;

export const nameOf = (names: Names, id: string): string => names.get(id) ?? id;

/** `Sextant before Chart room`, `Night sky last`. */
export function ruleWords(rule: OrderRule, names: Names): string {
  const mod = nameOf(names, rule.mod);
  return 'other' in rule ? `${mod} ${rule.goes} ${nameOf(names, rule.other)}` : `${mod} ${rule.goes}`;
}

/** Who says so: `you`, or the name of the mod whose entry in the catalogue has it. */
export const byWords = ({ by }: StatedRule, names: Names): string => (by === undefined ? 'you' : nameOf(names, by));

/** Why a rule does not count: what it contradicts, mod by mod. */
export function circleWords({ circle }: BrokenRule, names: Names): string {
  const way = circle.toReversed().map((id) => nameOf(names, id));
  return `${way.join(' comes before ')} by what counts more, so it cannot be kept.`;
}

const pairWords = ({ earlier, later, stated }: OrderedPair, names: Names): string =>
  stated === undefined
    ? `${nameOf(names, later)} needs ${nameOf(names, earlier)} before it`
    : `${stated.by === undefined ? 'you say' : `${nameOf(names, stated.by)} says`} ${ruleWords(stated.rule, names)}`;

/** What keeps mods from the places that a person has moved them to; nothing, where they are there. */
export function keptBackBy(
  wished: readonly ModId[],
  { order, pairs }: Pick<LoadOrder, 'order' | 'pairs'>,
  names: Names,
): string | undefined {
  if (wished.every((id, i) => order[i] === id)) return undefined;
  const place = new Map(wished.map((id, i) => [id, i]));
  const against = pairs.filter(({ earlier, later }) => place.get(earlier)! > place.get(later)!);
  if (against.length === 0) return 'A rule wants mods first or last.';
  const words = against.slice(0, 2).map((pair) => pairWords(pair, names));
  return `${words.join(', and ')}${against.length > 2 ? `, and ${against.length - 2} more` : ''}.`;
}

/** How many files a mod has by the order that others bring too, and how many it leaves to them. */
export interface Standing {
  readonly has: number;
  readonly leaves: number;
}

export function standings(contests: readonly Contest[], order: readonly ModId[]): ReadonlyMap<ModId, Standing> {
  const all = new Map<ModId, { has: number; leaves: number }>();
  for (const contest of contests) {
    if (contest.mods.length < 2) continue;
    const winner = winnerOf(contest, order);
    for (const mod of contest.mods) {
      const one = all.get(mod) ?? { has: 0, leaves: 0 };
      one[mod === winner ? 'has' : 'leaves']++;
      all.set(mod, one);
    }
  }
  return all;
}

/** What a mod shares with another one, and which of the two is loaded later. */
export function sharedWith(
  mod: ModId,
  contests: readonly Contest[],
  order: readonly ModId[],
): ReadonlyMap<ModId, { readonly files: number; readonly isLater: boolean }> {
  const place = new Map(order.map((id, i) => [id, i]));
  const shared = new Map<ModId, { files: number; isLater: boolean }>();
  for (const { mods } of contests) {
    if (!mods.includes(mod)) continue;
    for (const other of mods) {
      if (other === mod) continue;
      const files = (shared.get(other)?.files ?? 0) + 1;
      shared.set(other, { files, isLater: place.get(other)! > place.get(mod)! });
    }
  }
  return shared;
}
