import type { BuildLabel, ModId } from '#core/builds';
import { type Catalogue, inRange, type Mod, modById, needsOf, type Release, type Requirement } from '#core/mods';
import type { PatchImpact } from './impact';

/** Strongest first: tried here · said by the author · nothing it touches changed · unsure · known not to run · a requirement has nothing. */
export type Verdict = 'proven' | 'stated' | 'likely' | 'in doubt' | 'broken' | 'stuck';

/** A start of the game that was made here, with what came of one mod. */
export interface Trial {
  readonly build: BuildLabel;
  readonly mod: ModId;
  readonly release: string;
  readonly ran: boolean;
  /** Milliseconds since 1970. */
  readonly at: number;
}

export type Reason =
  | { readonly kind: 'tried'; readonly ran: boolean; readonly at: number }
  | { readonly kind: 'author'; readonly says: 'runs' | 'breaks' | 'nothing' }
  | { readonly kind: 'untouched'; readonly since: BuildLabel }
  | { readonly kind: 'touched'; readonly since: BuildLabel; readonly paths: readonly string[] }
  | { readonly kind: 'requirement'; readonly needs: Requirement };

export interface Assessment {
  readonly verdict: Verdict;
  /** What the verdict rests on, strongest first. */
  readonly reasons: readonly Reason[];
}

export interface AssessInput {
  readonly catalogue: Catalogue;
  readonly build: BuildLabel;
  /** Builds from old to new. */
  readonly builds: readonly BuildLabel[];
  readonly trials: readonly Trial[];
  /** What lies between a build and the one that is asked about. */
  readonly impactSince: (from: BuildLabel) => PatchImpact;
}

/** The files in a release's `touches` that a patch changed; an entry that ends in `/` stands for a folder. */
function hits(release: Release, { touched }: PatchImpact): string[] {
  return release.touches.flatMap((touch) => {
    if (!touch.endsWith('/')) return touched.has(touch) ? [touch] : [];
    return [...touched].filter((path) => path.startsWith(touch));
  });
}

function byEvidence(mod: Mod, release: Release, input: AssessInput): Assessment {
  const { build, builds, trials } = input;
  const reasons: Reason[] = [];
  const tried = trials
    .filter((t) => t.build === build && t.mod === mod.id && t.release === release.version)
    .toSorted((a, b) => a.at - b.at)
    .at(-1);
  if (tried) reasons.push({ kind: 'tried', ran: tried.ran, at: tried.at });
  const says = release.brokenOn.includes(build) ? 'breaks' : release.builds.includes(build) ? 'runs' : 'nothing';
  reasons.push({ kind: 'author', says });
  const place = builds.indexOf(build);
  const since = builds.findLast((other, i) => i < place && release.builds.includes(other));
  let untouched = false;
  if (since !== undefined) {
    const paths = hits(release, input.impactSince(since));
    untouched = paths.length === 0;
    reasons.push(untouched ? { kind: 'untouched', since } : { kind: 'touched', since, paths });
  }
  if (tried) return { verdict: tried.ran ? 'proven' : 'broken', reasons };
  if (says === 'breaks') return { verdict: 'broken', reasons };
  if (says === 'runs') return { verdict: 'stated', reasons };
  return { verdict: untouched ? 'likely' : 'in doubt', reasons };
}

const MAY_RUN: ReadonlySet<Verdict> = new Set(['proven', 'stated', 'likely']);

/**
 * Whether a release runs on a build, with the reasons: a pure function of the evidence. A requirement for which no
 * release may run makes it `stuck`, unless it was tried here.
 */
export function assess(
  mod: Mod,
  release: Release,
  input: AssessInput,
  asked: ReadonlySet<ModId> = new Set(),
): Assessment {
  const own = byEvidence(mod, release, input);
  if (own.verdict === 'proven' || own.verdict === 'broken') return own;
  const below = new Set([...asked, mod.id]);
  const mayRun = (need: Requirement): boolean => {
    const required = modById(input.catalogue, need.mod);
    return (
      required?.releases.some(
        (candidate) =>
          inRange(required, candidate.version, need) && MAY_RUN.has(assess(required, candidate, input, below).verdict),
      ) === true
    );
  };
  for (const alternatives of needsOf(release)) {
    if (alternatives.some((need) => below.has(need.mod) || mayRun(need))) continue;
    return { verdict: 'stuck', reasons: [{ kind: 'requirement', needs: alternatives[0]! }, ...own.reasons] };
  }
  return own;
}

/**
 * The catalogue with support at `build` added or taken away by evidence: what is proven or likely counts as supported
 * there, what is broken or stuck does not. Choosing then works on evidence without knowing of it.
 */
export function withInferred(input: AssessInput): Catalogue {
  const { catalogue, build } = input;
  const mods = catalogue.mods.map((mod) => ({
    ...mod,
    releases: mod.releases.map((release) => {
      const others = release.builds.filter((label) => label !== build);
      const runs = MAY_RUN.has(assess(mod, release, input).verdict);
      return { ...release, builds: runs ? [...others, build] : others, brokenOn: runs ? [] : release.brokenOn };
    }),
  }));
  return { ...catalogue, mods };
}
