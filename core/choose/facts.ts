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
import type { Pins } from './best-set';
import { type Literal, not, Sat } from './sat';
import { type Contradictions, smallestCore } from './smallest-core';

/** One of the facts that together show that not all must-haves can run at a build. */
export type Fact =
  | { readonly kind: 'wanted'; readonly mod: ModId }
  | { readonly kind: 'pinned'; readonly mod: ModId; readonly release: string }
  | { readonly kind: 'benched'; readonly mod: ModId }
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
  readonly pins?: Pins;
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

/** Hard questions are left undecided: a person waits for the answer. */
const MOST_CONFLICTS = 5_000;

/** All clauses as one question to the solver, each with a literal that makes it count. */
class Question implements Contradictions<Clause> {
  readonly #sat = new Sat();
  readonly #counts = new Map<Clause, Literal>();
  readonly #clauseOf = new Map<Literal, Clause>();
  readonly #releases = new Map<ModId, { readonly release: Release; readonly runs: Literal }[]>();

  constructor(
    clauses: readonly Clause[],
    private readonly input: FactsInput,
  ) {
    for (const clause of clauses) {
      const counts = this.#sat.variable(true);
      this.#counts.set(clause, counts);
      this.#clauseOf.set(counts, clause);
      for (const literals of this.#consequences(clause)) this.#sat.clause([not(counts), ...literals]);
    }
  }

  #of(id: ModId): { readonly release: Release; readonly runs: Literal }[] {
    let releases = this.#releases.get(id);
    if (!releases) {
      const all = modById(this.input.catalogue, id)?.releases ?? [];
      releases = all.map((release) => ({ release, runs: this.#sat.variable(false) }));
      this.#releases.set(id, releases);
      for (const [i, one] of releases.entries()) {
        for (const other of releases.slice(i + 1)) this.#sat.clause([not(one.runs), not(other.runs)]);
      }
    }
    return releases;
  }

  #inRange(range: Requirement): Literal[] {
    const mod = modById(this.input.catalogue, range.mod);
    return this.#of(range.mod).flatMap(({ release, runs }) => (inRange(mod!, release.version, range) ? [runs] : []));
  }

  /** What has to hold where the clause counts: of each list one literal. */
  #consequences(clause: Clause): Literal[][] {
    const { build, pins } = this.input;
    const own = this.#of(clause.mod);
    const none = (mayNot: (release: Release) => boolean): Literal[][] =>
      own.flatMap(({ release, runs }) => (mayNot(release) ? [[not(runs)]] : []));
    switch (clause.kind) {
      case 'wanted':
        return [own.map(({ runs }) => runs)];
      case 'pinned':
        return none(({ version }) => version !== pins!.get(clause.mod));
      case 'here':
        return none((release) => !isFor(release, build));
      case 'needs':
        return own.flatMap(({ release, runs }) =>
          statesNeed(release, clause.oneOf)
            ? [[not(runs), ...clause.oneOf.flatMap((range) => this.#inRange(range))]]
            : [],
        );
      case 'conflict':
        return own.flatMap(({ release, runs }) =>
          statesConflict(release, clause.with)
            ? this.#inRange(clause.with)
                .filter((other) => own.every((one) => one.runs !== other))
                .map((other) => [not(runs), not(other)])
            : [],
        );
    }
  }

  #solve(clauses: readonly Clause[]): boolean | undefined {
    return this.#sat.solve(
      clauses.map((clause) => this.#counts.get(clause)!),
      MOST_CONFLICTS,
    );
  }

  isImpossible(clauses: readonly Clause[]): boolean | undefined {
    const holds = this.#solve(clauses);
    return holds === undefined ? undefined : !holds;
  }

  /** Some of these, which cannot all hold; undefined where that is not proven. */
  contradiction(clauses: readonly Clause[]): Clause[] | undefined {
    if (!this.isImpossible(clauses)) return undefined;
    const core = new Set(this.#sat.core.map((literal) => this.#clauseOf.get(literal)));
    return clauses.filter((clause) => core.has(clause));
  }

  grown(clauses: readonly Clause[]): ReadonlySet<Clause> {
    const all = new Set(clauses);
    // What holds in an answer can hold besides; each of the others is asked for.
    const take = (some: readonly Clause[]): void => {
      if (this.#solve(some) !== true) return;
      for (const [clause, counts] of this.#counts) if (this.#sat.model[counts >> 1]) all.add(clause);
    };
    take(clauses);
    for (const clause of this.#counts.keys()) if (!all.has(clause)) take([...all, clause]);
    return all;
  }

  /** What is left when nothing can be left out any more, from the front (J. W. Chinneck, E. W. Dravnieks, 1991). */
  reduced(clauses: readonly Clause[]): Clause[] {
    let left = [...clauses];
    for (const clause of clauses) {
      if (left.includes(clause)) left = this.contradiction(left.filter((other) => other !== clause)) ?? left;
    }
    return left;
  }
}

function newestBuildWith(
  mod: Mod,
  ranges: readonly Requirement[],
  builds: readonly BuildLabel[],
): BuildLabel | undefined {
  const fit = mod.releases.filter(({ version }) => ranges.every((range) => inRange(mod, version, range)));
  return builds.findLast((build) => fit.some((release) => isFor(release, build)));
}

const pinOf = (mod: ModId, release: string | null): Fact =>
  release === null ? { kind: 'benched', mod } : { kind: 'pinned', mod, release };

function factOf(clause: Clause, all: readonly Clause[], { catalogue, build, builds, pins }: FactsInput): Fact {
  const mod = modById(catalogue, clause.mod);
  const versions = (has: (release: Release) => boolean): string[] =>
    (mod?.releases ?? []).filter(has).map(({ version }) => version);
  switch (clause.kind) {
    case 'wanted':
      return { kind: 'wanted', mod: clause.mod };
    case 'pinned':
      return pinOf(clause.mod, pins!.get(clause.mod)!);
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

export interface WhyNot {
  readonly facts: readonly Fact[];
  /** Whether it is proven that no fewer facts show it. */
  readonly fewest: boolean;
}

/** The fewest facts that together show that not all must-haves can run at a build; undefined where they can. */
export function whyNotAll(input: FactsInput): WhyNot | undefined {
  const clauses = clausesOf(input, input.mustHaves);
  const question = new Question(clauses, input);
  const together = question.contradiction(clauses);
  if (!together) return undefined;
  // A must-have that fails by itself does so by few facts, as a rule: a good start.
  const others = (id: ModId) => (clause: Clause) => clause.kind !== 'wanted' || clause.mod === id;
  const alone = input.mustHaves.flatMap((id) => [question.contradiction(clauses.filter(others(id))) ?? []]);
  const [known] = [together, ...alone]
    .filter(({ length }) => length > 0)
    .map((some) => question.reduced(some))
    .toSorted((a, b) => a.length - b.length);
  const { core, proven } = smallestCore(clauses, question, known!);
  const rank = { wanted: 0, pinned: 1, needs: 2, conflict: 3, here: 4 } as const;
  const ordered = core.toSorted((a, b) => rank[a.kind] - rank[b.kind]);
  return { facts: ordered.map((clause) => factOf(clause, core, input)), fewest: proven };
}
