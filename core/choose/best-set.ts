import type { BuildLabel, ModId } from '#core/builds';
import {
  type Catalogue,
  inConflict,
  inRange,
  type Mod,
  modById,
  needsOf,
  type Release,
  releaseOrder,
  type Requirement,
  type Weight,
} from '#core/mods';
import { MOST_OPTIONS, type OptionSet, type Solution, Solver, type Worth } from './solver';

/** Mods that are to run at just this release or not at all; those of null do not run: they are on the bench. */
export type Pins = ReadonlyMap<ModId, string | null>;

/** Maps are remembered to tell what changed since: a changed wish comes in a new map. */
export interface ChooseInput {
  readonly catalogue: Catalogue;
  /** The person's mods with their weights. A mod that is only required by one of them may come in as well. */
  readonly weights: ReadonlyMap<ModId, Weight>;
  readonly build: BuildLabel;
  readonly pins?: Pins;
  /** Releases that lie in the folder; of equal sets the one that changes least is chosen. */
  readonly installed?: ReadonlyMap<ModId, string>;
  /** How strong the evidence is that a release runs at the build, from 0 to 4. The same function always says the same. */
  readonly evidence?: (mod: ModId, version: string) => number;
}

/** Why a mod does not run at a build. */
export type Loss =
  | { readonly why: 'no-release'; readonly newestWith?: BuildLabel }
  | {
      readonly why: 'requirement';
      readonly release: string;
      readonly needs: Requirement;
      readonly cause: Loss | undefined;
    }
  /** Another release runs, but it is pinned to one that does not. */
  | { readonly why: 'pinned'; readonly release: string }
  | { readonly why: 'benched' }
  | { readonly why: 'conflict'; readonly release: string; readonly with: ModId }
  | { readonly why: 'outweighed' };

export interface BestSet {
  /** The chosen release of each mod that runs. */
  readonly runs: ReadonlyMap<ModId, string>;
  /** The person's mods that do not, with the reason. */
  readonly lost: ReadonlyMap<ModId, Loss>;
  readonly value: number;
  /** False where the search was stopped by its limit: the set is then valid, but perhaps not the best. */
  readonly exact: boolean;
  /** How much more value a better set may have at the most. */
  readonly gap: number;
  /** Whether also the order of sets of equal value was followed to the end. */
  readonly tieExact: boolean;
}

/**
 * A must-have outweighs all wants together, a want all spares together, up to a thousand of each: so a sum of values
 * orders sets as the weights do, one after the other.
 */
const VALUE: Record<Weight, number> = { must: 1_000_000, want: 1_000, spare: 1 };

/**
 * The releases that could run at a build, newest first: its author says so, and each requirement has a release that
 * could run as well (to any depth). What is left out can be in no valid set.
 */
export function candidatesAt(catalogue: Catalogue, build: BuildLabel): Map<ModId, Release[]> {
  const left = new Map<ModId, Release[]>();
  for (const mod of catalogue.mods) {
    const fit = mod.releases.filter(({ builds, brokenOn }) => builds.includes(build) && !brokenOn.includes(build));
    if (fit.length > 0) left.set(mod.id, fit.toReversed());
  }
  const isThere = (need: Requirement): boolean => {
    const mod = modById(catalogue, need.mod);
    return mod !== undefined && left.get(need.mod)?.some(({ version }) => inRange(mod, version, need)) === true;
  };
  const meets = (release: Release): boolean => needsOf(release).every((need) => need.some(isThere));
  for (let changed = true; changed;) {
    changed = false;
    for (const [id, releases] of left) {
      const fit = releases.filter(meets);
      if (fit.length === releases.length) continue;
      changed = true;
      if (fit.length > 0) left.set(id, fit);
      else left.delete(id);
    }
  }
  return left;
}

/** Mods that requirements or conflicts tie together; each group can be solved on its own. */
function tiedGroups(candidates: ReadonlyMap<ModId, readonly Release[]>): ModId[][] {
  const ties = new Map<ModId, Set<ModId>>([...candidates.keys()].map((id) => [id, new Set()]));
  for (const [id, releases] of candidates) {
    for (const release of releases) {
      for (const { mod } of [...needsOf(release).flat(), ...release.conflicts, ...release.optional]) {
        if (!ties.has(mod)) continue;
        ties.get(id)!.add(mod);
        ties.get(mod)!.add(id);
      }
    }
  }
  const groups: ModId[][] = [];
  const seen = new Set<ModId>();
  for (const start of ties.keys()) {
    if (seen.has(start)) continue;
    seen.add(start);
    const group = [start];
    for (const id of group) {
      for (const next of ties.get(id)!) {
        if (seen.has(next)) continue;
        seen.add(next);
        group.push(next);
      }
    }
    groups.push(group);
  }
  return groups;
}

/** The mods of a tied group with their releases that could run, and a solver that knows how they are tied. */
interface Group {
  /** Whether a mod has more releases for the build than the solver can tell apart; the oldest are left out then. */
  readonly cut: boolean;
  readonly mods: readonly { readonly mod: Mod; readonly releases: readonly Release[] }[];
  /** For each of them the places of the mods that its releases could need. */
  readonly needed: readonly (readonly number[])[];
  readonly solver: Solver;
  /** What came of the last question, undefined while nobody asked. */
  last: { readonly wishes: readonly Wish[]; readonly outcome: Outcome } | undefined;
}

/** What came of a question about one group. */
interface Outcome {
  readonly runs: readonly (readonly [ModId, Release])[];
  readonly solution: Solution;
}

/** Orders of ties that come before optional requirements; see `worthOf`. */
const EXTRAS_AND_EVIDENCE = 2;

function groupOf(
  ids: readonly ModId[],
  candidates: ReadonlyMap<ModId, readonly Release[]>,
  catalogue: Catalogue,
): Group {
  const place = new Map(ids.map((id, i) => [id, i]));
  const mods = ids.map((id) => ({
    mod: modById(catalogue, id)!,
    releases: candidates.get(id)!.slice(0, MOST_OPTIONS),
  }));
  const setOf = (range: Requirement): OptionSet | undefined => {
    const mod = place.get(range.mod);
    if (mod === undefined) return undefined;
    let mask = 0;
    mods[mod]!.releases.forEach(({ version }, bit) => {
      if (inRange(mods[mod]!.mod, version, range)) mask |= 1 << bit;
    });
    return mask === 0 ? undefined : { mod, mask };
  };
  // Ranges of one mod count together, so that an alternative that is left is known to be the only one.
  const setsOf = (ranges: readonly Requirement[]): OptionSet[] => {
    const masks = new Map<number, number>();
    for (const { mod, mask } of ranges.flatMap((range) => setOf(range) ?? [])) {
      masks.set(mod, (masks.get(mod) ?? 0) | mask);
    }
    return [...masks].map(([mod, mask]) => ({ mod, mask }));
  };
  const solver = new Solver(
    mods.map(({ releases }, own) => ({
      options: releases.map((release) => ({
        needs: needsOf(release).map(setsOf),
        // A release is no alternative to itself: that two of one mod cannot be in goes without saying.
        forbids: setsOf(release.conflicts).filter(({ mod }) => mod !== own),
        uses: setsOf(release.optional).filter(({ mod }) => mod !== own),
      })),
    })),
    EXTRAS_AND_EVIDENCE,
  );
  const needed = mods.map(({ releases }) => {
    const ranges = releases.flatMap((release) => needsOf(release).flat());
    return [...new Set(ranges.flatMap(({ mod }) => place.get(mod) ?? []))];
  });
  return { mods, needed, solver, last: undefined, cut: ids.some((id) => candidates.get(id)!.length > MOST_OPTIONS) };
}

/** What is worked out of a catalogue for a build, whatever the person wants of it. */
interface Prepared {
  readonly candidates: ReadonlyMap<ModId, readonly Release[]>;
  readonly groups: readonly Group[];
  readonly groupOf: ReadonlyMap<ModId, Group>;
  /** What was asked last. */
  asked: Asked | undefined;
}

type Asked = Pick<ChooseInput, 'weights' | 'pins' | 'installed' | 'evidence'>;

const prepared = new WeakMap<Catalogue, Map<BuildLabel, Prepared>>();

/** Worked out once: what the person wants changes often, and is answered by the same solvers. */
function prepare(catalogue: Catalogue, build: BuildLabel): Prepared {
  let builds = prepared.get(catalogue);
  if (!builds) prepared.set(catalogue, (builds = new Map()));
  let known = builds.get(build);
  if (!known) {
    const candidates = candidatesAt(catalogue, build);
    const groups = tiedGroups(candidates).map((ids) => groupOf(ids, candidates, catalogue));
    const places = new Map(groups.flatMap((group) => group.mods.map(({ mod }) => [mod.id, group] as const)));
    known = { candidates, groups, groupOf: places, asked: undefined };
    builds.set(build, known);
  }
  return known;
}

/** By place in the group: whether somebody asked for the mod or for one that could need it, to any depth. */
function withinReach({ mods, needed }: Group, weights: ReadonlyMap<ModId, Weight>): boolean[] {
  const reach = mods.map(({ mod }) => weights.has(mod.id));
  const open = [...reach.keys()].filter((place) => reach[place]);
  for (let place = open.pop(); place !== undefined; place = open.pop()) {
    for (const next of needed[place]!) {
      if (reach[next]) continue;
      reach[next] = true;
      open.push(next);
    }
  }
  return reach;
}

/** Evidence goes from 0 to this. */
const MOST_EVIDENCE = 4;

/** What is wanted of a mod, and what that makes it worth. */
interface Wish {
  readonly weight: Weight | undefined;
  readonly pin: string | null | undefined;
  readonly installed: string | undefined;
  readonly reach: boolean;
  readonly worth: Worth;
}

function worthOf(
  { mod, releases }: Group['mods'][number],
  { weight, pin, installed, reach }: Omit<Wish, 'worth'>,
  evidence: ChooseInput['evidence'],
): Worth {
  let allowed = 0;
  releases.forEach(({ version }, bit) => {
    if (reach && (pin === undefined || pin === version)) allowed |= 1 << bit;
  });
  const each = (worth: (release: Release, bit: number) => number): number[] => releases.map(worth);
  // What nobody asked for is to be as little as can be, and only then as good.
  const worthIfAsked = (worth: number, most: number): number => (weight ? worth : worth - most);
  const ties = [
    each(() => (weight ? 0 : -1)),
    each(({ version }) => worthIfAsked(evidence?.(mod.id, version) ?? 0, MOST_EVIDENCE)),
    each(({ version }) => worthIfAsked(installed === version ? 1 : 0, 1)),
    // Candidates stand newest first.
    each((_, bit) => worthIfAsked(releases.length - bit, releases.length)),
  ];
  return { value: weight ? VALUE[weight] : 0, ties, allowed };
}

type Said = ReadonlyMap<ModId, string | null> | undefined;

function changedIn(before: Said, now: Said): ModId[] {
  if (before === now) return [];
  const ids = new Set([...(before?.keys() ?? []), ...(now?.keys() ?? [])]);
  return [...ids].filter((id) => before?.get(id) !== now?.get(id));
}

/** Of the last two questions that were compared: dozens of builds are asked the same one after the other. */
let compared: { readonly before: Asked; readonly now: Asked; readonly changed: ReadonlySet<ModId> } | undefined;

const isSameQuestion = (a: Asked, b: Asked): boolean =>
  a.weights === b.weights && a.pins === b.pins && a.installed === b.installed;

/** The mods of which something else is wanted than before; undefined where that may be any. */
function changedSince(before: Asked | undefined, now: Asked): ReadonlySet<ModId> | undefined {
  if (!before || before.evidence !== now.evidence) return undefined;
  if (compared && isSameQuestion(compared.before, before) && isSameQuestion(compared.now, now)) return compared.changed;
  const changed = new Set([
    ...changedIn(before.weights, now.weights),
    ...changedIn(before.pins, now.pins),
    ...changedIn(before.installed, now.installed),
  ]);
  compared = { before, now, changed };
  return changed;
}

/**
 * What a group comes to. Worths of the mods of which nothing else is wanted than before are the same objects, which the
 * solver sees at once.
 * @param changed the mods of which something else is wanted; undefined where that may be any
 */
function answer(group: Group, input: Asked, changed: ReadonlySet<ModId> | undefined): Outcome {
  const { weights, pins, installed, evidence } = input;
  const before = changed && group.last?.wishes;
  const reach = withinReach(group, weights);
  const wishes = group.mods.map((one, place): Wish => {
    const { id } = one.mod;
    const same = before?.[place];
    if (same && same.reach === reach[place] && !changed!.has(id)) return same;
    const wish = { weight: weights.get(id), pin: pins?.get(id), installed: installed?.get(id), reach: reach[place]! };
    return { ...wish, worth: worthOf(one, wish, evidence) };
  });
  const solution = group.solver.solve(wishes.map(({ worth }) => worth));
  const runs = [...solution.chosen].map(([place, bit]) => {
    const { mod, releases } = group.mods[place]!;
    return [mod.id, releases[bit]!] as const;
  });
  const outcome = { runs, solution };
  group.last = { wishes, outcome };
  return outcome;
}

function newestBuildWith(mod: Mod, builds: readonly BuildLabel[]): BuildLabel | undefined {
  return builds.findLast((build) => mod.releases.some((release) => release.builds.includes(build)));
}

function explain(
  id: ModId,
  input: ChooseInput,
  builds: readonly BuildLabel[],
  candidates: ReadonlyMap<ModId, readonly Release[]>,
  runs: ReadonlyMap<ModId, Release>,
  asked: ReadonlySet<ModId> = new Set(),
): Loss {
  const { catalogue, build } = input;
  const mod = modById(catalogue, id);
  const pin = input.pins?.get(id);
  if (pin === null) return { why: 'benched' };
  const declared = mod?.releases.filter((r) => r.builds.includes(build) && !r.brokenOn.includes(build)) ?? [];
  if (pin !== undefined && declared.length > 0 && !declared.some(({ version }) => version === pin)) {
    return { why: 'pinned', release: pin };
  }
  const release = declared.find(({ version }) => version === pin) ?? declared.at(-1);
  if (!mod || !release) {
    const newestWith = mod && newestBuildWith(mod, builds);
    return { why: 'no-release', ...(newestWith === undefined ? {} : { newestWith }) };
  }
  const below = new Set([...asked, id]);
  const isMet = (need: Requirement): boolean => {
    const required = modById(catalogue, need.mod);
    const runsAs = runs.get(need.mod);
    return required !== undefined && runsAs !== undefined && inRange(required, runsAs.version, need);
  };
  for (const alternatives of needsOf(release)) {
    if (alternatives.some(isMet)) continue;
    // Where one of several is needed and none is there, the first stands for all.
    const needs = alternatives[0]!;
    const cause =
      runs.has(needs.mod) || below.has(needs.mod) || candidates.has(needs.mod)
        ? undefined
        : explain(needs.mod, input, builds, candidates, runs, below);
    return { why: 'requirement', release: release.version, needs, cause };
  }
  for (const [other, chosen] of runs) {
    if (inConflict(catalogue, id, release, other, chosen)) {
      return { why: 'conflict', release: release.version, with: other };
    }
  }
  return { why: 'outweighed' };
}

/**
 * The best set of releases at one build: requirements hold to any depth, no two conflict, one release a mod, a pinned mod
 * at its release or not at all; first the must-haves, then the wants, then the spares are as many as can be; of equal sets
 * the one with fewer mods that nobody asked for, then with stronger evidence, then with more optional requirements met,
 * then with fewer changes from what is
 * installed, then with newer releases.
 * @param builds all builds from old to new, for the reasons
 */
export function bestSet(input: ChooseInput, builds: readonly BuildLabel[]): BestSet {
  const { catalogue, build, weights } = input;
  const known = prepare(catalogue, build);
  const { candidates } = known;
  const changed = changedSince(known.asked, input);
  const touched = changed && new Set([...changed].map((id) => known.groupOf.get(id)));
  known.asked = input;
  const runs = new Map<ModId, Release>();
  let [value, gap, exact, tieExact] = [0, 0, true, true];
  for (const group of known.groups) {
    if (!group.last && !group.mods.some(({ mod }) => weights.has(mod.id))) continue;
    const isAsBefore = group.last && touched && !touched.has(group);
    const { solution, runs: some } = isAsBefore ? group.last!.outcome : answer(group, input, changed);
    for (const [id, release] of some) runs.set(id, release);
    value += solution.value;
    gap += solution.gap;
    exact &&= solution.exact && !group.cut;
    tieExact &&= solution.tieExact;
  }
  const lost = new Map<ModId, Loss>();
  for (const id of weights.keys()) {
    if (!runs.has(id)) lost.set(id, explain(id, input, builds, candidates, runs));
  }
  return { runs: new Map([...runs].map(([id, { version }]) => [id, version])), lost, value, gap, exact, tieExact };
}

/** Whether `to` is an older release than `from`. */
export function goesBack(mod: Mod, from: string, to: string): boolean {
  return releaseOrder(mod, to) < releaseOrder(mod, from);
}
