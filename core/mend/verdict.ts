import { type ReportCounts, shareThatRuns } from './reports';
import type { BuildLabel, ModId } from '#core/builds';
import { type Catalogue, inRange, type Mod, modById, needsOf, type Release, type Requirement } from '#core/mods';
import type { PatchImpact } from './impact';
import type { Said } from './said';

/**
 * Strongest first: tried here · said by the author · said by others, or nothing that it touches changed · unsure · known
 * not to run · a requirement has nothing.
 */
export const VERDICTS = ['proven', 'stated', 'likely', 'in doubt', 'broken', 'stuck'] as const;
export type Verdict = (typeof VERDICTS)[number];

/** Verdicts that a person may count as running, from strong to weak. */
export const EVIDENCE_LEVELS = ['proven', 'stated', 'likely', 'in doubt'] as const;
export type EvidenceLevel = (typeof EVIDENCE_LEVELS)[number];

/** Whether a verdict is as strong as `level`, or stronger. */
export function isAtLeast(verdict: Verdict, level: EvidenceLevel): boolean {
  return VERDICTS.indexOf(verdict) <= EVIDENCE_LEVELS.indexOf(level);
}

/** From 4 for what is proven to 0 for what does not run. */
export function strengthOf(verdict: Verdict): number {
  return Math.max(0, EVIDENCE_LEVELS.length - VERDICTS.indexOf(verdict));
}

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
  | ({ readonly kind: 'said' } & Pick<Said, 'runs' | 'text' | 'address' | 'at'>)
  | ({ readonly kind: 'reports'; readonly low: number; readonly high: number } & ReportCounts)
  | { readonly kind: 'untouched'; readonly since: BuildLabel }
  | { readonly kind: 'touched'; readonly since: BuildLabel; readonly paths: readonly string[] }
  | { readonly kind: 'touches-unknown'; readonly since: BuildLabel }
  | { readonly kind: 'requirement'; readonly needs: Requirement };

export interface Assessment {
  readonly verdict: Verdict;
  /** The verdict if all of its requirements were met. */
  readonly byItself: Verdict;
  /** What the verdict rests on, strongest first. */
  readonly reasons: readonly Reason[];
}

export interface AssessInput {
  readonly catalogue: Catalogue;
  readonly build: BuildLabel;
  /** Builds from old to new. */
  readonly builds: readonly BuildLabel[];
  readonly trials: readonly Trial[];
  /** What others said, as a person wrote it down. */
  readonly said?: readonly Said[];
  /** What lies between a build and the one that is asked about. */
  readonly impactSince: (from: BuildLabel) => PatchImpact;
}

/** The files of those that a release touches which a patch changed; an entry that ends in `/` stands for a folder. */
export function touchedBy(touches: NonNullable<Release['touches']>, { touched }: PatchImpact): string[] {
  return touches.flatMap((touch) => {
    if (!touch.endsWith('/')) return touched.has(touch) ? [touch] : [];
    return [...touched].filter((path) => path.startsWith(touch));
  });
}

function byEvidence(mod: Mod, release: Release, input: AssessInput): Assessment {
  const { build, builds, trials, said = [] } = input;
  const reasons: Reason[] = [];
  const verdict = (is: Verdict): Assessment => ({ verdict: is, byItself: is, reasons });
  const tried = trials
    .filter((t) => t.build === build && t.mod === mod.id && t.release === release.version)
    .toSorted((a, b) => a.at - b.at)
    .at(-1);
  if (tried) reasons.push({ kind: 'tried', ran: tried.ran, at: tried.at });
  const says = release.brokenOn.includes(build) ? 'breaks' : release.builds.includes(build) ? 'runs' : 'nothing';
  reasons.push({ kind: 'author', says });
  const reports = release.reports.find((report) => report.build === build);
  const share = reports && shareThatRuns(reports);
  const heard = said
    .filter((one) => one.build === build && one.mod === mod.id && one.release === release.version)
    .toSorted((a, b) => b.at - a.at);
  for (const { runs, text, address, at } of heard)
    reasons.push({ kind: 'said', runs, text, at, ...(address !== undefined && { address }) });
  if (share) reasons.push({ kind: 'reports', for: reports.for, against: reports.against, ...share });
  const place = builds.indexOf(build);
  const since = builds.findLast((other, i) => i < place && release.builds.includes(other));
  let untouched = false;
  if (since !== undefined) {
    const paths = release.touches && touchedBy(release.touches, input.impactSince(since));
    untouched = paths?.length === 0;
    if (!paths) reasons.push({ kind: 'touches-unknown', since });
    else reasons.push(untouched ? { kind: 'untouched', since } : { kind: 'touched', since, paths });
  }
  if (tried) return verdict(tried.ran ? 'proven' : 'broken');
  if (says === 'breaks') return verdict('broken');
  if (says === 'runs') return verdict('stated');
  // What was written down last: a person has seen all before it.
  if (heard[0]) return verdict(heard[0].runs ? 'likely' : 'in doubt');
  // More than half of all who try it, as far as the reports can tell.
  if (share && share.low > 0.5) return verdict('likely');
  if (share && share.high < 0.5) return verdict('in doubt');
  return verdict(untouched ? 'likely' : 'in doubt');
}

/** All releases of the catalogue, each by its evidence, and stuck where a requirement has nothing that may run. */
function assessAll(input: AssessInput): Map<Release, Assessment> {
  const all = new Map(
    input.catalogue.mods.flatMap((mod) =>
      mod.releases.map((release): [Release, Assessment] => [release, byEvidence(mod, release, input)]),
    ),
  );
  const mayRun = ({ mod: id, ...range }: Requirement): boolean => {
    const mod = modById(input.catalogue, id);
    return (
      mod?.releases.some(
        (other) => isAtLeast(all.get(other)!.verdict, 'likely') && inRange(mod, other.version, { mod: id, ...range }),
      ) === true
    );
  };
  // One that gets stuck may leave others stuck; a circle of requirements stands as long as nothing else breaks it.
  for (let changed = true; changed;) {
    changed = false;
    for (const [release, { verdict, byItself, reasons }] of all) {
      if (verdict === 'proven' || verdict === 'broken' || verdict === 'stuck') continue;
      const unmet = needsOf(release).find((alternatives) => !alternatives.some(mayRun));
      if (!unmet) continue;
      all.set(release, {
        verdict: 'stuck',
        byItself,
        reasons: [{ kind: 'requirement', needs: unmet[0]! }, ...reasons],
      });
      changed = true;
    }
  }
  return all;
}

const assessed = new WeakMap<AssessInput, Map<Release, Assessment>>();

/**
 * Whether a release of the catalogue runs on a build, with the reasons: a pure function of the evidence. A requirement for
 * which no release may run makes it `stuck`, unless it was tried here.
 */
export function assess(release: Release, input: AssessInput): Assessment {
  let all = assessed.get(input);
  if (!all) assessed.set(input, (all = assessAll(input)));
  return all.get(release)!;
}

/**
 * The catalogue with support at `build` added or taken away by evidence: what has a verdict of `level` or better counts as
 * supported there, all else does not. Whether its requirements are met is for the choosing to find out, which works on
 * evidence so without knowing of it.
 */
export function withInferred(input: AssessInput, level: EvidenceLevel = 'likely'): Catalogue {
  const { catalogue, build } = input;
  const mods = catalogue.mods.map((mod) => ({
    ...mod,
    releases: mod.releases.map((release) => {
      const others = release.builds.filter((label) => label !== build);
      const runs = isAtLeast(assess(release, input).byItself, level);
      return { ...release, builds: runs ? [...others, build] : others, brokenOn: runs ? [] : release.brokenOn };
    }),
  }));
  return { ...catalogue, mods };
}
