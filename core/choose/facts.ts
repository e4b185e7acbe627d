import type { BuildLabel, ModId } from '#core/builds';
import {
  type Catalogue,
  inRange,
  type Mod,
  modById,
  needsOf,
  type Release,
  type Requirement,
  sameNeed,
} from '#core/mods';
import { MOST_OPTIONS, type OptionSet, Solver } from './solver';

/** One of the facts that together show that not all must-haves can run at a build. */
export type Fact =
  | { readonly kind: 'wanted'; readonly mod: ModId }
  | { readonly kind: 'pinned'; readonly mod: ModId; readonly release: string }
  /** Of the releases that could do (those in a range that another fact needs, otherwise all), none is for the build. */
  | {
      readonly kind: 'none-here';
      readonly mod: ModId;
      /** The ranges that other facts need of the mod. */
      readonly ranges: readonly Requirement[];
      readonly newestWith: BuildLabel | undefined;
    }
  /** Only these releases are for the build. */
  | { readonly kind: 'only-here'; readonly mod: ModId; readonly releases: readonly string[] }
  | {
      readonly kind: 'needs';
      readonly mod: ModId;
      readonly releases: readonly string[];
      readonly oneOf: readonly Requirement[];
    }
  | {
      readonly kind: 'conflict';
      readonly mod: ModId;
      readonly releases: readonly string[];
      readonly with: Requirement;
    };

export interface FactsInput {
  readonly catalogue: Catalogue;
  readonly mustHaves: readonly ModId[];
  readonly build: BuildLabel;
  /** All builds from old to new. */
  readonly builds: readonly BuildLabel[];
  readonly pins?: ReadonlyMap<ModId, string>;
}

/** A fact as the search takes it or leaves it. */
type Clause =
  | { readonly kind: 'wanted' | 'pinned' | 'here'; readonly mod: ModId }
  | { readonly kind: 'needs'; readonly mod: ModId; readonly oneOf: readonly Requirement[] }
  | { readonly kind: 'conflict'; readonly mod: ModId; readonly with: Requirement };

const isFor = ({ builds, brokenOn }: Release, build: BuildLabel): boolean =>
  builds.includes(build) && !brokenOn.includes(build);

const statesNeed = (release: Release, oneOf: readonly Requirement[]): boolean =>
  needsOf(release).some((need) => sameNeed(need, oneOf));
const statesConflict = (release: Release, range: Requirement): boolean =>
  release.conflicts.some((other) => sameNeed([other], [range]));

/** All that is said of these mods and of those that they could need, to any depth. */
function clausesOf({ catalogue, pins }: FactsInput, mustHaves: readonly ModId[]): Clause[] {
  const reach = new Set(mustHaves);
  const clauses: Clause[] = [];
  for (const id of reach) {
    const mod = modById(catalogue, id);
    clauses.push({ kind: 'here', mod: id });
    if (pins?.has(id)) clauses.push({ kind: 'pinned', mod: id });
    const needs: (readonly Requirement[])[] = [];
    const conflicts: Requirement[] = [];
    for (const release of mod?.releases ?? []) {
      for (const need of needsOf(release)) {
        need.forEach((range) => reach.add(range.mod));
        if (!needs.some((known) => sameNeed(known, need))) needs.push(need);
      }
      for (const range of release.conflicts) {
        if (!conflicts.some((known) => sameNeed([known], [range]))) conflicts.push(range);
      }
    }
    clauses.push(...needs.map((oneOf): Clause => ({ kind: 'needs', mod: id, oneOf })));
    clauses.push(...conflicts.map((range): Clause => ({ kind: 'conflict', mod: id, with: range })));
  }
  // Those that somebody asked for stand last: they are tried last, so that what is left speaks of few mods.
  return [...clauses, ...mustHaves.map((mod): Clause => ({ kind: 'wanted', mod }))];
}

/** Whether it is proven that these cannot all hold. */
function isImpossible(clauses: readonly Clause[], { catalogue, build, pins }: FactsInput): boolean {
  const ids = [
    ...new Set(clauses.flatMap((c) => (c.kind === 'needs' ? [c.mod, ...c.oneOf.map((n) => n.mod)] : [c.mod]))),
  ];
  const place = new Map(ids.map((id, i) => [id, i]));
  const of = (kind: Clause['kind'], id: ModId): Clause[] => clauses.filter((c) => c.kind === kind && c.mod === id);
  const releasesOf = ids.map((id) => (modById(catalogue, id)?.releases ?? []).slice(-MOST_OPTIONS));
  const setOf = (range: Requirement): OptionSet | undefined => {
    const at = place.get(range.mod);
    if (at === undefined) return undefined;
    const mod = modById(catalogue, range.mod);
    const mask = releasesOf[at]!.reduce(
      (sum, { version }, bit) => (inRange(mod!, version, range) ? sum | (1 << bit) : sum),
      0,
    );
    return mask === 0 ? undefined : { mod: at, mask };
  };
  const solver = new Solver(
    ids.map((id, own) => ({
      options: releasesOf[own]!.map((release) => ({
        needs: of('needs', id).flatMap((c) =>
          c.kind === 'needs' && statesNeed(release, c.oneOf) ? [c.oneOf.flatMap((range) => setOf(range) ?? [])] : [],
        ),
        forbids: of('conflict', id)
          .flatMap((c) => (c.kind === 'conflict' && statesConflict(release, c.with) ? (setOf(c.with) ?? []) : []))
          .filter(({ mod }) => mod !== own),
      })),
    })),
  );
  const wanted = new Set(clauses.flatMap((c) => (c.kind === 'wanted' ? [c.mod] : [])));
  const { value, exact } = solver.solve(
    ids.map((id, i) => {
      const here = of('here', id).length > 0;
      const pin = of('pinned', id).length > 0 ? pins!.get(id) : undefined;
      const may = (release: Release): boolean =>
        (!here || isFor(release, build)) && (pin === undefined || release.version === pin);
      const allowed = releasesOf[i]!.reduce((sum, release, bit) => (may(release) ? sum | (1 << bit) : sum), 0);
      return { value: wanted.has(id) ? 1 : 0, ties: [], allowed };
    }),
  );
  return exact && value < wanted.size;
}

/** Leaves out what is not needed for the contradiction, from the front; none of what is left can be. */
function reduced(clauses: readonly Clause[], input: FactsInput): Clause[] {
  let left = [...clauses];
  for (const clause of clauses) {
    const without = left.filter((other) => other !== clause);
    if (isImpossible(without, input)) left = without;
  }
  return left;
}

function newestBuildWith(
  mod: Mod,
  ranges: readonly Requirement[],
  builds: readonly BuildLabel[],
): BuildLabel | undefined {
  const fit = mod.releases.filter(({ version }) => ranges.every((range) => inRange(mod, version, range)));
  return builds.findLast((build) => fit.some((release) => isFor(release, build)));
}

function factOf(clause: Clause, all: readonly Clause[], { catalogue, build, builds, pins }: FactsInput): Fact {
  const mod = modById(catalogue, clause.mod);
  const versions = (has: (release: Release) => boolean): string[] =>
    (mod?.releases ?? []).filter(has).map(({ version }) => version);
  switch (clause.kind) {
    case 'wanted':
      return { kind: 'wanted', mod: clause.mod };
    case 'pinned':
      return { kind: 'pinned', mod: clause.mod, release: pins!.get(clause.mod)! };
    case 'here': {
      const ranges = all.flatMap((c) =>
        c.kind === 'needs' && c.oneOf.length === 1 ? c.oneOf.filter((n) => n.mod === clause.mod) : [],
      );
      const here = versions((release) => isFor(release, build));
      // A pin that none of them has is a fact of its own: there are releases all the same.
      if (here.some((version) => ranges.every((range) => inRange(mod!, version, range))))
        return { kind: 'only-here', mod: clause.mod, releases: here };
      return { kind: 'none-here', mod: clause.mod, ranges, newestWith: mod && newestBuildWith(mod, ranges, builds) };
    }
    case 'needs': {
      const stating = versions((release) => statesNeed(release, clause.oneOf));
      return { kind: 'needs', mod: clause.mod, releases: stating, oneOf: clause.oneOf };
    }
    case 'conflict': {
      const stating = versions((release) => statesConflict(release, clause.with));
      return { kind: 'conflict', mod: clause.mod, releases: stating, with: clause.with };
    }
  }
}

/**
 * Facts that together show that not all must-haves can run at a build, of which none can be left out: an irreducible
 * inconsistent set, found by deletion (J. W. Chinneck, E. W. Dravnieks, Locating Minimal Infeasible Constraint Sets in
 * Linear Programs, 1991). A must-have that fails by itself is taken before two that fail only together, and of several
 * such the one with the fewest facts. Undefined where they can all run.
 */
export function whyNotAll(input: FactsInput): Fact[] | undefined {
  const attempt = (mustHaves: readonly ModId[]): Clause[] | undefined => {
    const clauses = clausesOf(input, mustHaves);
    return isImpossible(clauses, input) ? clauses : undefined;
  };
  const alone = input.mustHaves.flatMap((mod) => {
    const clauses = attempt([mod]);
    return clauses ? [reduced(clauses, input)] : [];
  });
  const together = alone.length > 0 ? undefined : attempt(input.mustHaves);
  const sets = together ? [reduced(together, input), reduced(together.toReversed(), input)] : alone;
  const smallest = sets.toSorted((a, b) => a.length - b.length)[0];
  if (!smallest) return undefined;
  const rank = { wanted: 0, pinned: 1, needs: 2, conflict: 3, here: 4 } as const;
  return smallest.toSorted((a, b) => rank[a.kind] - rank[b.kind]).map((clause) => factOf(clause, smallest, input));
}
