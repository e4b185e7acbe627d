import { type BuildLabel, buildOrder, headBuild, type ModId } from '#core/builds';
import { chooseAll } from '#core/choose';
import {
  afterSteps,
  type AssessInput,
  madeFor,
  type MendStep,
  mendSteps,
  type ModMove,
  movesBetween,
  movesOfFacts,
  type StepWish,
  touchedBy,
  workList,
} from '#core/mend';
import { modById, releaseAt } from '#core/mods';
import { likeliestBuild } from '#core/survey';
import type { Install } from '~/store';
import { benchOf, runsAt } from './bench';
import { pinsOf } from './choosing';
import { choosingBy, type Evidence, evidenceOf } from './evidence';
import { storeOfInstall } from './history';
import { identities, type InstallContext, installContext, installedReleases, personalOrder } from './install-context';
import type { MendedView, MendView, StepTarget } from './views';

/* What Mend shows. See stages.ts. */

/** Mods of the folder that would go, though a release of them is not known not to run: a person has to say whether to try it. */
function undecidedOf(steps: readonly MendStep[], input: AssessInput, { bench = [], pins = [] }: Install): Set<ModId> {
  const decided = new Set([...bench.map(({ mod }) => mod), ...pins.map(([mod]) => mod)]);
  const mayRun = (id: ModId): boolean => runsAt(input, id, 'in doubt');
  return new Set(
    steps.flatMap(({ mod, action, from }) =>
      action === 'bench' && from !== undefined && !decided.has(mod) && mayRun(mod) ? [mod] : [],
    ),
  );
}

/**
 * The build that the mods come from, when the folder is or goes to `to`. The storefront may have taken the folder there already:
 * what counts then is the build that they were chosen for, or else that most of them are made for.
 */
function fromBuild({ install, catalogue, trees, index }: InstallContext, at: Standing): BuildLabel | undefined {
  const { onDisk, to, installed } = at;
  if (onDisk !== to) return onDisk;
  const { target } = install;
  const chosenFor = target && (target.build === to ? target.from : target.build);
  const labels = index.builds.map(({ label }) => label);
  return [chosenFor, madeFor(catalogue, installed, labels)].find((build) => build && trees.has(build)) ?? onDisk;
}

/** The build that the folder is at, the one that mods are mended for, and the releases that lie there. */
interface Standing {
  readonly onDisk: BuildLabel | undefined;
  readonly to: BuildLabel;
  readonly installed: ReadonlyMap<ModId, string>;
}

function setAt(here: InstallContext, evidence: Evidence, build: BuildLabel) {
  const { install, catalogue } = here;
  const installed = installedReleases(here);
  const choice = chooseAll([build], catalogue, new Map(install.weights), installed, {
    ...{ pins: pinsOf(install), ...choosingBy(evidence) },
  })[0]!;
  const benched = new Set(install.bench?.map(({ mod }) => mod));
  const insisted = new Map(install.insisted?.filter(([mod]) => !benched.has(mod)));
  const steps = mendSteps(choice, installed, evidence.inputAt(build), insisted);
  const releases = new Map(steps.flatMap(({ mod, to }) => (to === undefined ? [] : [[mod, to] as const])));
  return { choice, installed, steps, releases };
}

/**
 * What becomes of the mods when the folder goes to `to` (what the storefront leads to where it is undefined).
 * Undefined before the first survey.
 */
export async function mend(installId: string, to: BuildLabel | undefined): Promise<MendView | undefined> {
  const here = await installContext(installId);
  const { index, catalogue, trees, install } = here;
  const build = to !== undefined && buildOrder(index, to) >= 0 ? to : headBuild(index);
  const onDisk = likeliestBuild(identities(here), trees.keys());
  const from = build && fromBuild(here, { onDisk, to: build, installed: installedReleases(here) });
  if (!from || !build || !trees.get(from) || !trees.get(build)) return undefined;
  const evidence = await evidenceOf(here);
  const input = evidence.inputAt(build);
  const { choice, installed, steps, releases } = setAt(here, evidence, build);
  const impact = input.impactSince(from);
  return {
    ...{ at: Date.now(), from, to: build, onDisk, catalogue, choice, releases },
    changes: impact.changes,
    items: workList(catalogue, steps, installed),
    here: installed,
    undecided: undecidedOf(steps, input, install),
    bench: benchOf(here, evidence, onDisk),
    weights: new Map(install.weights),
    order: personalOrder(here, releases),
    level: evidence.level,
    touched: new Map(
      catalogue.mods.map((mod) => {
        const release = releaseAt(mod, installed.get(mod.id) ?? '') ?? mod.releases.at(-1)!;
        return [mod.id, touchedBy(release.touches ?? [], impact)];
      }),
    ),
  };
}

/** Where files of releases lie that come, go or change, and the list of mods: nothing else is touched for their sake. */
function pathsOf({ installed, catalogue, index }: InstallContext, moves: readonly ModMove[]): string[] {
  const found = new Map(installed.map(({ mod, files }) => [mod, files]));
  const wanted = moves.flatMap(({ mod: id, from, to }) => {
    const mod = modById(catalogue, id);
    const releases = [from, to].flatMap((version) => (mod && releaseAt(mod, version ?? '')) ?? []);
    const misplaced = (found.get(id) ?? []).map(({ path }) => path);
    return [...releases.flatMap(({ files }) => files.map(({ path }) => path)), ...misplaced];
  });
  const { loadOrder } = index.game.rules;
  return [...new Set([...wanted, ...(loadOrder === undefined ? [] : [loadOrder])])];
}

/** What is to lie in the folder after some steps, each taken with what has to come along; and the paths that this is about. */
export async function stepTarget(
  installId: string,
  build: BuildLabel,
  steps: readonly StepWish[],
): Promise<StepTarget> {
  const here = await installContext(installId);
  const { installed, releases: wanted } = setAt(here, await evidenceOf(here), build);
  const releases = afterSteps(here.catalogue, installed, wanted, steps);
  const order = personalOrder(here, releases);
  const moves = movesBetween(installed, releases, here.catalogue);
  const onDisk = likeliestBuild(identities(here), here.trees.keys());
  const from = fromBuild(here, { onDisk, to: build, installed });
  const isFromElsewhere = from !== undefined && from !== build;
  return {
    target: {
      ...{ build, releases: [...releases], order, decidedBy: 'mend', at: Date.now() },
      ...(isFromElsewhere && { from }),
    },
    returns: moves.flatMap((move) => (move.from === undefined ? [move.mod] : [])),
    ...(onDisk === build && { paths: pathsOf(here, moves) }),
  };
}

/** Lay-downs that changed mods, newest first; none where the folder has no store, or it cannot be asked now. */
export async function mended(installId: string): Promise<MendedView[]> {
  const store = await storeOfInstall(installId);
  return (store?.history ?? []).flatMap(({ id, at, what, facts, state, after, lost, elsewhere }): MendedView[] => {
    const moves = what === 'lay-down' ? movesOfFacts(facts) : [];
    if (moves.length === 0) return [];
    const { build, from } = facts;
    return [
      {
        ...{ id, at, moves, build: build as BuildLabel | undefined },
        from: from === build ? undefined : from,
        isTakenBack: state === 'taken-back' || state === 'undone',
        canGoBack: state === 'made' && after.length + lost === 0 && !elsewhere,
      },
    ];
  });
}
