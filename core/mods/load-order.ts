import type { ModId } from '#core/builds';
import { modById, needsOf, releaseAt } from './releases';
import type { Catalogue, OrderRule } from './schema';

/** A rule, and the mod whose entry in the catalogue has it; a person's own, where that is left out. */
export interface StatedRule {
  readonly rule: OrderRule;
  readonly by?: ModId;
}

/** A rule that cannot be kept, since it goes round in a circle with others that count more. */
export interface BrokenRule extends StatedRule {
  /** From the mod that the rule wants earlier, through what has to come before it, to the one that it wants later. */
  readonly circle: readonly ModId[];
}

/** What has to be loaded before what: by a rule, or else since the later one requires the earlier one. */
export interface OrderedPair {
  readonly earlier: ModId;
  readonly later: ModId;
  readonly stated?: StatedRule;
}

export interface LoadOrder {
  readonly order: readonly ModId[];
  readonly broken: readonly BrokenRule[];
  readonly pairs: readonly OrderedPair[];
}

/** Rules that bear on mods in the folder: a person's first, since they count more, then the catalogue's. */
export function statedRules(
  catalogue: Catalogue,
  releases: ReadonlyMap<ModId, string>,
  own: readonly OrderRule[],
): StatedRule[] {
  const said = catalogue.mods
    .filter(({ id }) => releases.has(id))
    .flatMap(({ id, order = [] }) => order.map((rule): StatedRule => ({ rule, by: id })));
  const bears = ({ rule }: StatedRule): boolean =>
    releases.has(rule.mod) && (!('other' in rule) || (releases.has(rule.other) && rule.other !== rule.mod));
  return [...own.map((rule): StatedRule => ({ rule })), ...said].filter(bears);
}

type Before = Map<ModId, ModId[]>;

/** What each mod requires of what is there: it is loaded before it. */
function requirements(catalogue: Catalogue, releases: ReadonlyMap<ModId, string>): Before {
  const before: Before = new Map();
  for (const [id, version] of releases) {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    const needs = release
      ? needsOf(release)
          .flat()
          .map((need) => need.mod)
      : [];
    before.set(
      id,
      needs.filter((need) => releases.has(need) && need !== id),
    );
  }
  return before;
}

/** The way from a mod to one that has to be loaded before it, over what has to be in between; undefined where there is none. */
function wayBack(before: Before, from: ModId, to: ModId): ModId[] | undefined {
  const cameFrom = new Map<ModId, ModId | undefined>([[from, undefined]]);
  for (const id of cameFrom.keys()) {
    if (id === to) {
      const way: ModId[] = [];
      for (let at: ModId | undefined = to; at !== undefined; at = cameFrom.get(at)) way.push(at);
      return way.toReversed();
    }
    for (const earlier of before.get(id) ?? []) if (!cameFrom.has(earlier)) cameFrom.set(earlier, id);
  }
  return undefined;
}

/**
 * The order in which mods are loaded: requirements before the mods that need them, then what the rules say, as far as they do
 * not contradict what counts more, otherwise the order that is given, and the catalogue's for what is not in it. What has to
 * come earlier moves up; nothing else moves.
 * @param rules what counts more first
 */
export function orderMods(
  catalogue: Catalogue,
  releases: ReadonlyMap<ModId, string>,
  given: readonly ModId[] = [],
  rules: readonly StatedRule[] = [],
): LoadOrder {
  const before = requirements(catalogue, releases);
  const broken: BrokenRule[] = [];
  const pairs = [...before].flatMap(([later, all]) => all.map((earlier): OrderedPair => ({ earlier, later })));
  const places = new Map<ModId, 'first' | 'last'>();
  for (const stated of rules) {
    const { rule } = stated;
    if (!('other' in rule)) {
      if (!places.has(rule.mod)) places.set(rule.mod, rule.goes);
      continue;
    }
    const [earlier, later] = rule.goes === 'before' ? [rule.mod, rule.other] : [rule.other, rule.mod];
    const circle = wayBack(before, earlier, later);
    if (circle) broken.push({ ...stated, circle });
    else {
      before.set(later, [...(before.get(later) ?? []), earlier]);
      pairs.push({ earlier, later, stated });
    }
  }
  const all = [...new Set([...given, ...catalogue.mods.map(({ id }) => id)])].filter(
    (id) => releases.has(id) && modById(catalogue, id),
  );
  const of = (place: 'first' | 'last' | undefined): ModId[] => all.filter((id) => places.get(id) === place);
  const order: ModId[] = [];
  const [seen, placed] = [new Set<ModId>(), new Set<ModId>()];
  const rank = new Map(all.map((id, i) => [id, i]));
  for (const start of [...of('first'), ...of(undefined), ...of('last')]) {
    // Without recursion: chains of requirements may be long.
    const open = [start];
    while (open.length > 0) {
      const id = open.at(-1)!;
      if (!seen.has(id)) {
        seen.add(id);
        const earlier = (before.get(id) ?? []).filter((one) => !seen.has(one) && rank.has(one));
        open.push(...earlier.toSorted((a, b) => rank.get(b)! - rank.get(a)!));
      } else {
        open.pop();
        if (!placed.has(id)) order.push(id);
        placed.add(id);
      }
    }
  }
  return { order, broken, pairs };
}

/** As {@link orderMods}, without rules. */
export const loadOrder = (
  catalogue: Catalogue,
  releases: ReadonlyMap<ModId, string>,
  given: readonly ModId[] = [],
): readonly ModId[] => orderMods(catalogue, releases, given).order;

/**
 * An order with what of it is listed elsewhere in the listed order, the others behind the mods that they stood behind. The same
 * array, where it is in that order already.
 */
export function takenOver(order: readonly ModId[], listed: readonly ModId[]): readonly ModId[] {
  const listedHere = new Set(listed.filter((id) => order.includes(id)));
  const now = order.filter((id) => listedHere.has(id));
  if ([...listedHere].every((id, i) => now[i] === id)) return order;
  const behind = new Map<ModId | undefined, ModId[]>();
  let last: ModId | undefined;
  for (const id of order) {
    if (listedHere.has(id)) last = id;
    else behind.set(last, [...(behind.get(last) ?? []), id]);
  }
  return [...(behind.get(undefined) ?? []), ...[...listedHere].flatMap((id) => [id, ...(behind.get(id) ?? [])])];
}

/** An order with one mod at another place in it. */
export const movedTo = (order: readonly ModId[], mod: ModId, place: number): ModId[] =>
  order.filter((id) => id !== mod).toSpliced(place, 0, mod);

/** A file that several mods bring, or that a mod lays over the game's: the one that is loaded last has it. */
export interface Contest {
  readonly path: string;
  readonly mods: readonly ModId[];
  /** A depot has it too. */
  readonly isVanilla: boolean;
}

/** Which mod has a file in the end. */
export const winnerOf = ({ mods }: Contest, order: readonly ModId[]): ModId =>
  mods.toSorted((a, b) => order.indexOf(a) - order.indexOf(b)).at(-1)!;
