import type { BuildLabel, ModId } from '#core/builds';
import {
  type AssessInput,
  assess,
  EVIDENCE_LEVELS,
  type EvidenceLevel,
  patchImpact,
  type PatchImpact,
  strengthOf,
  type Trial,
  trialsFrom,
  withInferred,
} from '#core/mend';
import { type Catalogue, modById, type Release, releaseAt, withoutWithdrawn } from '#core/mods';
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
  /** Of releases that were withdrawn those that may still be chosen: they lie here, or a person wants just them. */
  readonly stays: ReadonlySet<string>;
}

/** Names of withdrawn releases that stay choosable, see {@link Evidence}; the same set for the same ones. */
const staying = keepLast((names: string): ReadonlySet<string> => new Set(JSON.parse(names) as string[]));
const releaseName = (mod: ModId, version: string): string => JSON.stringify([mod, version]);

function stayingOf({ install, installed, catalogue }: InstallContext): ReadonlySet<string> {
  const wanted = [
    ...installed.map(({ mod, release }) => [mod, release] as const),
    ...(install.pins ?? []),
    ...(install.target?.releases ?? []),
  ];
  const withdrawn = wanted.flatMap(([id, version]) => {
    const mod = modById(catalogue, id);
    return mod && releaseAt(mod, version)?.withdrawn !== undefined ? [releaseName(id, version)] : [];
  });
  return staying(JSON.stringify([...new Set(withdrawn)].toSorted()));
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

export async function evidenceOf(here: InstallContext): Promise<Evidence> {
  const { install, index, catalogue, trees } = here;
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
  return { inputAt, level: install.evidence ?? USUAL_EVIDENCE, stays: stayingOf(here) };
}

const inferred = new WeakMap<AssessInput, (level: EvidenceLevel, stays: Evidence['stays']) => Catalogue>();

/** The catalogue as it counts at a build, worked out once: without what was withdrawn, but for what lies here. */
export function catalogueAt({ inputAt, level, stays }: Evidence, build: BuildLabel): Catalogue {
  const input = inputAt(build);
  let at = inferred.get(input);
  if (!at) {
    at = keepLast(
      (level: EvidenceLevel, stays: Evidence['stays']) =>
        withoutWithdrawn(withInferred(input, level), (mod, version) => stays.has(releaseName(mod, version))),
      EVIDENCE_LEVELS.length,
    );
    inferred.set(input, at);
  }
  return at(level, stays);
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
