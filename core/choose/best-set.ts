import type { BuildLabel, ModId } from '#core/builds';
import {
  type Catalogue,
  inRange,
  type Mod,
  modById,
  type Release,
  releaseOrder,
  type Requirement,
  type Weight,
} from '#core/mods';

export interface ChooseInput {
  readonly catalogue: Catalogue;
  /** The person's mods with their weights. A mod that is only required by one of them may come in as well. */
  readonly weights: ReadonlyMap<ModId, Weight>;
  readonly build: BuildLabel;
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
}

/**
 * A must-have outweighs all wants together, a want all spares together, up to a thousand of each: so a sum of values
 * orders sets as the weights do, one after the other.
 */
const VALUE: Record<Weight, number> = { must: 1_000_000, want: 1_000, spare: 1 };
const NODE_LIMIT = 2_000_000;

interface Candidate {
  readonly mod: Mod;
  readonly releases: readonly Release[];
}

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
  const meets = ({ requires }: Release): boolean =>
    requires.every((need) => {
      const mod = modById(catalogue, need.mod);
      return mod !== undefined && left.get(need.mod)?.some(({ version }) => inRange(mod, version, need));
    });
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
    for (const { requires, conflicts } of releases) {
      for (const { mod } of [...requires, ...conflicts]) {
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

/** Requirements before those that need them, as far as the group has no circle. */
function requirementsFirst(group: readonly ModId[], candidates: ReadonlyMap<ModId, readonly Release[]>): ModId[] {
  const order: ModId[] = [];
  const state = new Set<ModId>();
  const visit = (id: ModId): void => {
    if (state.has(id)) return;
    state.add(id);
    for (const { requires } of candidates.get(id)!) {
      for (const { mod } of requires) if (candidates.has(mod)) visit(mod);
    }
    order.push(id);
  };
  group.forEach(visit);
  return order;
}

/** Depth-first search with a bound over one group. Exact unless the node limit stops it. */
class GroupSearch {
  readonly #mods: Candidate[];
  readonly #values: number[];
  /** The value that the mods from a place onward can add at most. */
  readonly #rest: number[];
  readonly #chosen = new Map<ModId, Release>();
  best = new Map<ModId, Release>();
  bestValue = -1;
  #bestExtras = Infinity;
  nodes = 0;

  constructor(
    order: readonly ModId[],
    private readonly catalogue: Catalogue,
    candidates: ReadonlyMap<ModId, readonly Release[]>,
    private readonly weights: ReadonlyMap<ModId, Weight>,
  ) {
    this.#mods = order.map((id) => ({ mod: modById(catalogue, id)!, releases: candidates.get(id)! }));
    this.#values = order.map((id) => {
      const weight = weights.get(id);
      return weight ? VALUE[weight] : 0;
    });
    this.#rest = [...this.#values, 0];
    for (let i = this.#rest.length - 2; i >= 0; i--) this.#rest[i]! += this.#rest[i + 1]!;
  }

  run(): this {
    this.#visit(0, 0);
    return this;
  }

  #visit(place: number, value: number): void {
    if (++this.nodes > NODE_LIMIT) return;
    const bound = value + this.#rest[place]!;
    // Equal values may still differ in how many mods come in that nobody asked for: fewer is better.
    if (bound < this.bestValue || (bound === this.bestValue && this.#extras() >= this.#bestExtras)) return;
    const next = this.#mods[place];
    if (!next) {
      if (!this.#requirementsHold()) return;
      this.best = new Map(this.#chosen);
      this.bestValue = value;
      this.#bestExtras = this.#extras();
      return;
    }
    const id = next.mod.id;
    for (const release of next.releases) {
      if (this.#conflicts(id, release) || !this.#stillPossible(release, place)) continue;
      this.#chosen.set(id, release);
      this.#visit(place + 1, value + this.#values[place]!);
      this.#chosen.delete(id);
    }
    this.#visit(place + 1, value);
  }

  #extras(): number {
    let extras = 0;
    for (const id of this.#chosen.keys()) if (!this.weights.has(id)) extras++;
    return extras;
  }

  /** A requirement on a mod that was decided already must be met; one on a later mod may still be. */
  #stillPossible({ requires }: Release, place: number): boolean {
    return requires.every((need) => {
      const decided = this.#mods.findIndex(({ mod }) => mod.id === need.mod);
      return decided > place || this.#meets(need);
    });
  }

  #meets(need: Requirement): boolean {
    const chosen = this.#chosen.get(need.mod);
    return chosen !== undefined && inRange(modById(this.catalogue, need.mod)!, chosen.version, need);
  }

  #requirementsHold(): boolean {
    return [...this.#chosen.values()].every(({ requires }) => requires.every((need) => this.#meets(need)));
  }

  #conflicts(id: ModId, release: Release): boolean {
    for (const [other, chosen] of this.#chosen) if (inConflict(this.catalogue, id, release, other, chosen)) return true;
    return false;
  }
}

/** A conflict holds both ways, whichever of the two names it. */
function inConflict(catalogue: Catalogue, a: ModId, release: Release, b: ModId, other: Release): boolean {
  const names = (from: Release, id: ModId, version: string): boolean =>
    from.conflicts.some((range) => range.mod === id && inRange(modById(catalogue, id)!, version, range));
  return names(release, b, other.version) || names(other, a, release.version);
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
  const declared = mod?.releases.filter((r) => r.builds.includes(build) && !r.brokenOn.includes(build)) ?? [];
  const release = declared.at(-1);
  if (!mod || !release) {
    const newestWith = mod && newestBuildWith(mod, builds);
    return { why: 'no-release', ...(newestWith === undefined ? {} : { newestWith }) };
  }
  const below = new Set([...asked, id]);
  for (const needs of release.requires) {
    const required = modById(catalogue, needs.mod);
    const runsAs = runs.get(needs.mod);
    if (required && runsAs && inRange(required, runsAs.version, needs)) continue;
    const cause =
      runsAs || below.has(needs.mod) || candidates.has(needs.mod)
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
 * The best set of releases at one build: requirements hold to any depth, no two conflict, one release a mod; first
 * the must-haves, then the wants, then the spares are as many as can be; of equal sets the one with fewer mods that
 * nobody asked for, then with newer releases of the mods that others require.
 * @param builds all builds from old to new, for the reasons
 */
export function bestSet(input: ChooseInput, builds: readonly BuildLabel[]): BestSet {
  const candidates = candidatesAt(input.catalogue, input.build);
  const runs = new Map<ModId, Release>();
  let value = 0;
  let exact = true;
  for (const group of tiedGroups(candidates)) {
    if (!group.some((id) => input.weights.has(id))) continue;
    const search = new GroupSearch(
      requirementsFirst(group, candidates),
      input.catalogue,
      candidates,
      input.weights,
    ).run();
    for (const [id, release] of search.best) runs.set(id, release);
    value += Math.max(0, search.bestValue);
    exact &&= search.nodes <= NODE_LIMIT;
  }
  const lost = new Map<ModId, Loss>();
  for (const id of input.weights.keys()) {
    if (!runs.has(id)) lost.set(id, explain(id, input, builds, candidates, runs));
  }
  return { runs: new Map([...runs].map(([id, { version }]) => [id, version])), lost, value, exact };
}

/** Whether `to` is an older release than `from`. */
export function goesBack(mod: Mod, from: string, to: string): boolean {
  return releaseOrder(mod, to) < releaseOrder(mod, from);
}
