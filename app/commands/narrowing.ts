import type { ModId } from '#core/builds';
import type { StepWish } from '#core/mend';
import { modById } from '#core/mods';
import type { NarrowView } from '~/queries';
import { broadcast, getCatalogue, getInstall, type Install, type Narrowing, updateInstall } from '~/store';
import { benchMods, takeSteps } from './mending';

/* Narrowing a failure down: switching mods off and on, and what came of each start. */

async function change(install: string, to: (now: Narrowing) => Narrowing): Promise<void> {
  await updateInstall(install, (now) => (now.narrowing ? { ...now, narrowing: to(now.narrowing) } : now));
  broadcast({ type: 'changed' });
}

/** Begins with the mods that lie in the folder. Nothing is changed there yet. */
export async function beginNarrowing(install: string, view: NarrowView, symptom: Narrowing['symptom']): Promise<void> {
  const narrowing: Narrowing = {
    ...{ at: Date.now(), build: view.build, symptom, starts: [] },
    releases: view.mods.map(({ mod, release }) => [mod, release] as const),
    weights: view.mods.map(({ mod, weight }) => [mod, weight] as const),
  };
  await updateInstall(install, (now) => ({ ...now, narrowing }));
  broadcast({ type: 'changed' });
}

/** Has just these mods of the folder lie there, at the releases that it began with; a change of its own, which can be taken back. */
async function switchTo(install: string, on: ReadonlySet<ModId>, { build, releases }: Narrowing): Promise<void> {
  const steps = releases.map(([mod, release]): StepWish => ({ mod, to: on.has(mod) ? release : null }));
  // What others need comes first, and goes last.
  await takeSteps(install, build, [...steps.filter(({ to }) => to === null), ...steps.filter(({ to }) => to !== null)]);
}

const narrowingOf = ({ narrowing }: Install): Narrowing => {
  if (!narrowing) throw new Error('Nothing is narrowed down.');
  return narrowing;
};

/** Switches mods for the next start. @throws Failure as the lay-down does */
export async function switchForStart(install: string, on: readonly ModId[]): Promise<void> {
  await switchTo(install, new Set(on), narrowingOf(await getInstall(install)));
}

/** Notes what came of a start with these mods on. */
export const answerStart = (
  install: string,
  on: readonly ModId[],
  outcome: Narrowing['starts'][number]['outcome'],
): Promise<void> => change(install, (now) => ({ ...now, starts: [...now.starts, { at: Date.now(), on, outcome }] }));

/** Takes the answers from one of the starts on back: it was told wrongly, or something else has changed since. */
export const takeAnswersBack = (install: string, from: number): Promise<void> =>
  change(install, (now) => ({ ...now, starts: now.starts.slice(0, from) }));

/**
 * Puts all mods back that lay there when it began, but for some, which go on the bench until they have another release.
 * @throws Failure as the lay-down does; the narrowing stays then
 */
export async function putAllBack(install: string, without: readonly ModId[] = []): Promise<void> {
  const { game, ...rest } = await getInstall(install);
  const narrowing = narrowingOf({ game, ...rest });
  const catalogue = await getCatalogue(game);
  for (const mod of without) {
    const after = modById(catalogue, mod)?.releases.at(-1)?.version;
    const until = { kind: 'release', ...(after !== undefined && { after }) } as const;
    await benchMods(install, [mod], { reason: 'Breaks the game', until });
  }
  const out = new Set(without);
  const on = narrowing.releases.flatMap(([mod]) => (out.has(mod) ? [] : [mod]));
  await switchTo(install, new Set(on), narrowing);
  await endNarrowing(install);
}

/** Ends it, with the folder as it lies. */
export async function endNarrowing(install: string): Promise<void> {
  await updateInstall(install, ({ narrowing: _, ...now }) => now);
  broadcast({ type: 'changed' });
}
