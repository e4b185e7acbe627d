import type { BuildLabel, DepotIndex, ModId } from '#core/builds';
import { type Catalogue, modById, type Weight } from '#core/mods';
import { type BestSet, bestSet, type ChooseInput, goesBack, type Pins } from './best-set';

export interface ModChange {
  readonly mod: ModId;
  /** The release on disk, undefined where the mod comes in anew. */
  readonly from: string | undefined;
  readonly to: string;
}

/** What a build means for a person's mods, against what is installed. */
export interface BuildChoice extends BestSet {
  readonly build: BuildLabel;
  /** How many of the person's own mods run (mods that come in as requirements are not counted). */
  readonly running: number;
  readonly mustLost: number;
}

export interface ChooseOptions {
  readonly pins?: Pins;
  /** The catalogue as it counts at a build, where evidence adds to what authors say or takes from it. */
  readonly catalogueAt?: (build: BuildLabel) => Catalogue;
  /** How strong the evidence is that a release runs at a build, from 0 to 4. */
  readonly evidence?: (build: BuildLabel) => NonNullable<ChooseInput['evidence']>;
}

/** The choice at each build, in the order of `builds`. */
export function chooseAll(
  builds: readonly BuildLabel[],
  catalogue: Catalogue,
  weights: ReadonlyMap<ModId, Weight>,
  installed: ReadonlyMap<ModId, string>,
  { pins, evidence, catalogueAt }: ChooseOptions = {},
): BuildChoice[] {
  return builds.map((build) => {
    const evidenceHere = evidence && { evidence: evidence(build) };
    const input = {
      catalogue: catalogueAt?.(build) ?? catalogue,
      weights,
      build,
      installed,
      ...(pins && { pins }),
      ...evidenceHere,
    };
    const best = bestSet(input, builds);
    return {
      ...best,
      build,
      running: [...best.runs.keys()].filter((id) => weights.has(id)).length,
      mustLost: [...best.lost.keys()].filter((id) => weights.get(id) === 'must').length,
    };
  });
}

/** Mods that run at another release than the one on disk: those that go back, and those that go forward or come in anew. */
export function changesOf(
  { runs }: Pick<BuildChoice, 'runs'>,
  installed: ReadonlyMap<ModId, string>,
  catalogue: Catalogue,
): { back: ModChange[]; forward: ModChange[] } {
  const back: ModChange[] = [];
  const forward: ModChange[] = [];
  for (const [mod, to] of runs) {
    const from = installed.get(mod);
    if (from === to) continue;
    const isBack = from !== undefined && goesBack(modById(catalogue, mod)!, from, to);
    (isBack ? back : forward).push({ mod, from, to });
  }
  return { back, forward };
}

/**
 * The builds that the choices were made for, the best first: the highest value, of equal ones the newest. Builds that only
 * a branch with a code leads to are left out.
 */
export function rankChoices(choices: readonly BuildChoice[], index: DepotIndex): BuildChoice[] {
  const locked = new Set(index.branches.filter(({ needsCode }) => needsCode).map(({ build }) => build));
  const open = choices.filter(({ build }) => !locked.has(build));
  return open.toReversed().toSorted((a, b) => b.value - a.value);
}

/** A mod that is not at the same release at two builds; undefined where it does not run. */
export interface ModDifference {
  readonly mod: ModId;
  readonly here: string | undefined;
  readonly there: string | undefined;
}

/** What two choices do not have in common, mod by mod in the order of the first one's mods. */
export function choiceDifferences(here: BuildChoice, there: BuildChoice): ModDifference[] {
  const mods = new Set([...here.runs.keys(), ...here.lost.keys(), ...there.runs.keys(), ...there.lost.keys()]);
  return [...mods]
    .map((mod) => ({ mod, here: here.runs.get(mod), there: there.runs.get(mod) }))
    .filter((one) => one.here !== one.there);
}
