import type { ModId } from '#core/builds';
import { type Catalogue, inConflict, inRange, modById, needsOf, releaseAt, type Requirement } from '#core/mods';
import type { MendStep } from './mend-steps';

/** A mod that comes in, goes, or changes to another release. */
export interface ModMove {
  readonly mod: ModId;
  /** Undefined where it is not there before. */
  readonly from: string | undefined;
  /** Undefined where it is not there afterwards. */
  readonly to: string | undefined;
}

/** What it takes to have one mod at a release, and what comes of it. */
export interface StepAlone {
  /** The mod itself first, then what it needs, and what cannot stay beside it. Empty where nothing has to be done. */
  readonly moves: readonly ModMove[];
  /** What it needs and cannot have; undefined where it can have all. */
  readonly unmet: Requirement | undefined;
  /** Mods in the folder that have what they need before, and not afterwards. */
  readonly leftWithout: readonly ModId[];
}

/**
 * One mod's step taken by itself. What it needs comes along to any depth, at the releases of `wanted`; what it cannot run
 * beside goes to the release of `wanted` that it can run beside, or away.
 * @param here releases in the folder
 * @param wanted the releases of the whole set that is worked towards
 * @param to undefined takes the mod out
 */
export function stepAlone(
  catalogue: Catalogue,
  here: ReadonlyMap<ModId, string>,
  wanted: ReadonlyMap<ModId, string>,
  mod: ModId,
  to: string | undefined,
): StepAlone {
  const after = new Map(here);
  const moved = new Set<ModId>();
  const move = (id: ModId, version: string | undefined): void => {
    moved.add(id);
    if (version === undefined) after.delete(id);
    else after.set(id, version);
  };
  const releaseOf = (id: ModId, version: string | undefined) => {
    const found = version === undefined ? undefined : modById(catalogue, id);
    return found && releaseAt(found, version!);
  };
  const meets = (releases: ReadonlyMap<ModId, string>, need: Requirement): boolean => {
    const [required, version] = [modById(catalogue, need.mod), releases.get(need.mod)];
    return required !== undefined && version !== undefined && inRange(required, version, need);
  };
  let unmet: Requirement | undefined;
  move(mod, to);
  for (const id of moved) {
    const release = releaseOf(id, after.get(id));
    if (!release) continue;
    for (const alternatives of needsOf(release)) {
      if (alternatives.some((need) => meets(after, need))) continue;
      const met = alternatives.find((need) => !moved.has(need.mod) && meets(wanted, need));
      if (met) move(met.mod, wanted.get(met.mod));
      else unmet ??= alternatives[0];
    }
    for (const [other, version] of [...after]) {
      const beside = releaseOf(other, version);
      if (moved.has(other) || !beside || !inConflict(catalogue, id, release, other, beside)) continue;
      const instead = releaseOf(other, wanted.get(other));
      move(other, instead && !inConflict(catalogue, id, release, other, instead) ? instead.version : undefined);
    }
  }
  const hasAll = (releases: ReadonlyMap<ModId, string>, id: ModId): boolean => {
    const release = releaseOf(id, releases.get(id));
    return !release || needsOf(release).every((alternatives) => alternatives.some((need) => meets(releases, need)));
  };
  return {
    moves: [...moved].flatMap((id) =>
      here.get(id) === after.get(id) ? [] : [{ mod: id, from: here.get(id), to: after.get(id) }],
    ),
    unmet,
    leftWithout: [...after.keys()].filter((id) => !moved.has(id) && hasAll(here, id) && !hasAll(after, id)),
  };
}

/** Some mods with what they need of a set of releases, to any depth. */
export function withNeeds(
  catalogue: Catalogue,
  releases: ReadonlyMap<ModId, string>,
  mods: readonly ModId[],
): ReadonlySet<ModId> {
  const all = new Set(mods);
  for (const id of all) {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, releases.get(id) ?? '');
    for (const need of release ? needsOf(release).flat() : []) {
      const [required, version] = [modById(catalogue, need.mod), releases.get(need.mod)];
      if (required && version !== undefined && inRange(required, version, need)) all.add(need.mod);
    }
  }
  return all;
}

/** A step that a person asks for: `to` null takes the mod out; left out, it goes to where the whole set has it. */
export interface StepWish {
  readonly mod: ModId;
  readonly to?: string | null;
}

/** A step as the work list has it. */
export interface WorkItem extends MendStep {
  /** `done`: the folder has it so already. `blocked`: what it needs is not to be had. */
  readonly state: 'done' | 'open' | 'blocked';
  readonly alone: StepAlone;
}

/** The steps in their order, each with what stands about it in the folder. */
export function workList(
  catalogue: Catalogue,
  steps: readonly MendStep[],
  here: ReadonlyMap<ModId, string>,
): WorkItem[] {
  const wanted = new Map(steps.flatMap(({ mod, to }) => (to === undefined ? [] : [[mod, to] as const])));
  return steps.map((step): WorkItem => {
    const alone = stepAlone(catalogue, here, wanted, step.mod, step.to);
    const state = step.from === step.to ? 'done' : alone.unmet ? 'blocked' : 'open';
    return { ...step, state, alone };
  });
}

/**
 * The releases of the folder after some of the steps, each with what comes along. Steps are taken in the order in which they
 * are given.
 */
export function afterSteps(
  catalogue: Catalogue,
  here: ReadonlyMap<ModId, string>,
  wanted: ReadonlyMap<ModId, string>,
  steps: readonly StepWish[],
): Map<ModId, string> {
  const after = new Map(here);
  for (const { mod, to } of steps) {
    const { moves } = stepAlone(catalogue, after, wanted, mod, to === null ? undefined : (to ?? wanted.get(mod)));
    for (const move of moves) {
      if (move.to === undefined) after.delete(move.mod);
      else after.set(move.mod, move.to);
    }
  }
  return after;
}
