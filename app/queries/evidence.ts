import type { BuildLabel } from '#core/builds';
import {
  type AssessInput,
  assess,
  type EvidenceLevel,
  patchImpact,
  type PatchImpact,
  strengthOf,
  type Trial,
  trialsFrom,
  withInferred,
} from '#core/mend';
import { type Catalogue, modById, type Release, releaseAt } from '#core/mods';
import type { ChooseInput, ChooseOptions } from '#core/choose';
import type { GameAnswer } from '#core/outside';
import type { Trees } from '#core/survey';
import { getGame, listTrials } from '~/store';
import type { InstallContext } from './install-context';
import { keepLast } from './keep-last';

/** What counts where a person has not said otherwise. */
export const USUAL_EVIDENCE: EvidenceLevel = 'stated';

/** What speaks for and against each release, at each build. */
export interface Evidence {
  readonly inputAt: (build: BuildLabel) => AssessInput;
  readonly level: EvidenceLevel;
}

/** What a person says of mods counts as they say it; what a log says only where the cause lies in the mod itself. */
const trialsOfStart = (
  { told, mods }: GameAnswer,
  build: BuildLabel,
  at: number,
  catalogue: Catalogue,
): readonly Trial[] =>
  told
    ? mods.map(({ mod, release, ran }) => ({ build, mod, release, ran, at }))
    : trialsFrom(mods, { build, at, catalogue });

/** What starts of the game here say for and against releases. */
export async function trialsOf(install: string, catalogue: Catalogue): Promise<Trial[]> {
  return (await listTrials(install)).flatMap(({ answer, at }) =>
    answer.version === undefined ? [] : trialsOfStart(answer, answer.version, at, catalogue),
  );
}

/** Inputs that were made of a catalogue and trees, so that what was worked out of them counts until something is new. */
const inputsOf = keepLast((_catalogue: Catalogue, _trees: Trees) => new Map<string, AssessInput>());

export async function evidenceOf({ install, index, catalogue, trees }: InstallContext): Promise<Evidence> {
  const [trials, { said = [] }] = await Promise.all([trialsOf(install.id, catalogue), getGame(install.game)]);
  const starts = [...new Set(trials.map(({ at }) => at))];
  const builds = index.builds.map(({ label }) => label);
  const known = inputsOf(catalogue, trees);
  const inputAt = (build: BuildLabel): AssessInput => {
    const key = JSON.stringify([build, install.id, starts, builds, said.map(({ id }) => id)]);
    let input = known.get(key);
    if (!input) {
      const impacts = new Map<BuildLabel, PatchImpact>();
      const impactSince = (since: BuildLabel): PatchImpact => {
        const impact = impacts.get(since) ?? patchImpact(trees.get(since) ?? [], trees.get(build) ?? []);
        impacts.set(since, impact);
        return impact;
      };
      known.set(key, (input = { catalogue, build, builds, trials, said, impactSince }));
    }
    return input;
  };
  return { inputAt, level: install.evidence ?? USUAL_EVIDENCE };
}

const inferred = new WeakMap<AssessInput, Map<EvidenceLevel, Catalogue>>();

/** The catalogue as it counts at a build, worked out once. */
export function catalogueAt({ inputAt, level }: Evidence, build: BuildLabel): Catalogue {
  const input = inputAt(build);
  let levels = inferred.get(input);
  if (!levels) inferred.set(input, (levels = new Map()));
  let catalogue = levels.get(level);
  if (!catalogue) levels.set(level, (catalogue = withInferred(input, level)));
  return catalogue;
}

const strengths = new WeakMap<AssessInput, NonNullable<ChooseInput['evidence']>>();

/** How strong the evidence for a release is; the same function for the same evidence. */
function strengthBy(input: AssessInput): NonNullable<ChooseInput['evidence']> {
  let strength = strengths.get(input);
  if (!strength) {
    strength = (id, version) => {
      const mod = modById(input.catalogue, id);
      const release = mod && releaseAt(mod, version);
      if (!mod || !release) return 0;
      const strength = (one: Release): number => strengthOf(assess(one, input).byItself);
      const own = strength(release);
      // A fix that somebody posted steps back once its author has a release that is as good.
      const isReplaced =
        release.unofficial !== undefined &&
        mod.releases.some((other) => other.unofficial === undefined && strength(other) >= own);
      return isReplaced ? Math.max(0, own - 1) : own;
    };
    strengths.set(input, strength);
  }
  return strength;
}

/** What choosing needs of it. */
export function choosingBy(evidence: Evidence): Required<Pick<ChooseOptions, 'catalogueAt' | 'evidence'>> {
  return {
    catalogueAt: (build) => catalogueAt(evidence, build),
    evidence: (build) => strengthBy(evidence.inputAt(build)),
  };
}
