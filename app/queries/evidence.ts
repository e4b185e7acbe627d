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
import { type Catalogue, modById, releaseAt } from '#core/mods';
import type { ChooseInput, ChooseOptions } from '#core/choose';
import type { Trees } from '#core/survey';
import { listTrials } from '~/store';
import type { InstallContext } from './install-context';
import { keepLast } from './keep-last';

/** What counts where a person has not said otherwise. */
export const USUAL_EVIDENCE: EvidenceLevel = 'stated';

/** What speaks for and against each release, at each build. */
export interface Evidence {
  readonly inputAt: (build: BuildLabel) => AssessInput;
  readonly level: EvidenceLevel;
}

async function trialsOf(install: string, catalogue: Catalogue): Promise<Trial[]> {
  return (await listTrials(install)).flatMap(({ answer, at }) =>
    answer.version === undefined ? [] : trialsFrom(answer.mods, { build: answer.version, at, catalogue }),
  );
}

/** Inputs that were made of a catalogue and trees, so that what was worked out of them counts until something is new. */
const inputsOf = keepLast((_catalogue: Catalogue, _trees: Trees) => new Map<string, AssessInput>());

export async function evidenceOf({ install, index, catalogue, trees }: InstallContext): Promise<Evidence> {
  const trials = await trialsOf(install.id, catalogue);
  const starts = [...new Set(trials.map(({ at }) => at))];
  const builds = index.builds.map(({ label }) => label);
  const known = inputsOf(catalogue, trees);
  const inputAt = (build: BuildLabel): AssessInput => {
    const key = JSON.stringify([build, install.id, starts, builds]);
    let input = known.get(key);
    if (!input) {
      const impacts = new Map<BuildLabel, PatchImpact>();
      const impactSince = (since: BuildLabel): PatchImpact => {
        const impact = impacts.get(since) ?? patchImpact(trees.get(since) ?? [], trees.get(build) ?? []);
        impacts.set(since, impact);
        return impact;
      };
      known.set(key, (input = { catalogue, build, builds, trials, impactSince }));
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
      return release ? strengthOf(assess(release, input).byItself) : 0;
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
