import { asMod, type BuildLabel, type ModId } from '#core/builds';
import { type Catalogue, inRange, modById, needsOf, releaseAt } from '#core/mods';
import type { Trial } from './verdict';

/** What came of one mod in a start of the game. */
export interface TrialOutcome {
  readonly mod: string;
  readonly release: string;
  readonly ran: boolean;
  /** What kept it from running, where the game tells. */
  readonly cause?: 'build' | 'files' | 'not-listed' | 'requirement' | 'conflict' | undefined;
}

/**
 * What a start of the game says for and against releases. A mod that ran speaks for its release. One that did not speaks
 * against it only where the cause lies in itself: not where its files were incomplete, where it was not asked to load, or
 * where what it requires did not run, or what it cannot run beside did.
 * @param at milliseconds since 1970
 */
export function trialsFrom(
  outcomes: readonly TrialOutcome[],
  { build, at, catalogue }: { readonly build: BuildLabel; readonly at: number; readonly catalogue: Catalogue },
): Trial[] {
  const ran = new Map<ModId, string>();
  for (const { mod, release, ran: did } of outcomes) if (did) ran.set(asMod(mod), release);
  const runs = ({ mod: id, ...range }: { mod: ModId; from?: string | undefined; to?: string | undefined }): boolean => {
    const [mod, version] = [modById(catalogue, id), ran.get(id)];
    return mod !== undefined && version !== undefined && inRange(mod, version, { mod: id, ...range });
  };
  const liesInItself = ({ mod: id, release: version, cause }: TrialOutcome): boolean => {
    if (cause !== undefined && cause !== 'build') return false;
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    if (!release) return true;
    return needsOf(release).every((alternatives) => alternatives.some(runs)) && !release.conflicts.some(runs);
  };
  return outcomes.flatMap((outcome) =>
    outcome.ran || liesInItself(outcome)
      ? [{ build, mod: asMod(outcome.mod), release: outcome.release, ran: outcome.ran, at }]
      : [],
  );
}
