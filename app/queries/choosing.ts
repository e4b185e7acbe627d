import { type BuildLabel, isPreset, type ModId, ownKind } from '#core/builds';
import {
  type Bar,
  barsOf,
  type BuildChoice,
  changesOf,
  chooseAll,
  decisionFor,
  type Pins,
  rankChoices,
  type Support,
  type WhyNot,
  whyNotAll,
} from '#core/choose';
import { Failure } from '#core/failure';
import type { ContentKey } from '#core/digest';
import { bytesToCome, type OnDisk } from '#core/fetch';
import type { LaidFile } from '#core/manifest';
import { assess, type AssessInput, type FileChange, isAtLeast, patchImpact } from '#core/mend';
import { modById, releaseAt, type ReleaseFile, releaseFileKey } from '#core/mods';
import { likeliestBuild } from '#core/survey';
import type { TargetCopy } from '#core/fetch';
import { type Install, listOwnMods, type Target } from '~/store';
import { catalogueAt, choosingBy, type Evidence, evidenceOf } from './evidence';
import { unknownModFiles } from './along';
import {
  identities,
  installContext,
  type InstallContext,
  installedReleases,
  personalOrder,
  treeOfTarget,
} from './install-context';
import { keepLast } from './keep-last';
import { onDiskOf } from './on-disk';
import type { ChooseView, EvidenceView, ReplacedView, TwoBuildsView } from './views';

/* What Choose shows. See stages.ts. */

/** Keeps what was worked out last of the same evidence, until something else is asked of it. */
function keptByEvidence<Value>(): (input: AssessInput, key: string, work: () => Value) => Value {
  const kept = new WeakMap<AssessInput, { readonly key: string; readonly value: Value }>();
  return (input, key, work) => {
    const known = kept.get(input);
    if (known?.key === key) return known.value;
    const value = work();
    kept.set(input, { key, value });
    return value;
  };
}

const keptChoices = keptByEvidence<BuildChoice[]>();

/**
 * The releases that mods are pinned to, and mods that are on the bench. Of those that wait until one of their releases runs the
 * evidence says as much, at each build.
 */
export const pinsOf = ({ pins = [], bench = [] }: Pick<Install, 'pins' | 'bench'>): Pins =>
  new Map<ModId, string | null>([
    ...pins,
    ...bench.flatMap(({ mod, until }) => (until?.kind === 'runs' ? [] : [[mod, null] as const])),
  ]);

/** The best set of the person's mods at each build, from old to new. The frame and Choose ask for the same one. */
export function choicesOf(here: InstallContext, evidence: Evidence): BuildChoice[] {
  const labels = here.index.builds.map(({ label }) => label);
  const [oldest] = labels;
  if (oldest === undefined) return [];
  const { weights } = here.install;
  const pins = pinsOf(here.install);
  const installed = installedReleases(here);
  const key = JSON.stringify([evidence.level, weights, [...pins], [...installed], [...evidence.stays]]);
  return keptChoices(evidence.inputAt(oldest), key, () => {
    const options = { pins, ...choosingBy(evidence) };
    return chooseAll(labels, here.catalogue, new Map(weights), installed, options);
  });
}

export async function choose(installId: string): Promise<ChooseView> {
  const here = await installContext(installId);
  const { catalogue, index, trees, installed, install } = here;
  const evidence = await evidenceOf(here);
  const choices = choicesOf(here, evidence);
  const toFetch = new Map<BuildLabel, number>();
  const disk = await onDiskOf(here);
  for (const choice of choices) {
    const bytes = bytesToFetch(here, disk, choice);
    if (bytes !== undefined) toFetch.set(choice.build, bytes);
  }
  const [best, second] = rankChoices(choices, index);
  return {
    catalogue,
    choices,
    recommended: best?.build,
    runnerUp: second?.build,
    installed,
    toFetch,
    at: Date.now(),
    level: evidence.level,
    bars: barsAt(here, evidence, choices),
    onDisk: likeliestBuild(identities(here), trees.keys()),
    ownMods: new Set((await listOwnMods(install.game)).map(({ id }) => id)),
    unknownFiles: unknownModFiles(here),
    weights: new Map(install.weights),
    saves: savesAt(here),
  };
}

/** The contents of each build that are nowhere at hand, for as long as what is there is the same. */
const missingOn = keepLast((_disk: OnDisk) => new WeakMap<readonly LaidFile[], Missing>());

interface Missing {
  readonly contents: ReadonlyMap<ContentKey, number>;
  readonly bytes: number;
}

const sum = (numbers: Iterable<number>): number => [...numbers].reduce((all, one) => all + one, 0);

/** Bytes that a choice would have to fetch, as Fetch tells them then; undefined before the first survey. */
function bytesToFetch(here: InstallContext, disk: OnDisk, choice: BuildChoice): number | undefined {
  const { trees, catalogue, found, survey, index } = here;
  const laid = trees.get(choice.build);
  if (!laid || !survey || found.length === 0) return undefined;
  const known = missingOn(disk);
  let vanilla = known.get(laid);
  if (!vanilla) {
    const contents = bytesToCome(laid, disk);
    known.set(laid, (vanilla = { contents, bytes: sum(contents.values()) }));
  }
  const files = [...choice.runs].flatMap(([id, version]) => {
    const mod = modById(catalogue, id);
    return (mod && releaseAt(mod, version))?.files.filter(({ href }) => href !== '') ?? [];
  });
  // What a person has set of a mod stays as it lies there.
  const isSet = ({ path }: ReleaseFile): boolean => disk.contents.keyAt.has(path) && isPreset(index.game.rules, path);
  const wanted = files
    .filter((file) => !isSet(file))
    .map((file) => ({ size: file.size, sha256: file.sha256, key: releaseFileKey(file) }));
  const { contents } = vanilla;
  return (
    vanilla.bytes +
    sum(
      bytesToCome(
        wanted.filter(({ key }) => !contents.has(key)),
        disk,
      ).values(),
    )
  );
}

function savesAt({ survey, index }: InstallContext): ChooseView['saves'] {
  if (!survey) return [];
  const builds = new Map(survey.saveBuilds);
  const isSave = (path: string): boolean => ownKind(index.game.rules, path) === 'saves';
  const saves: { modified: number; build: BuildLabel | undefined }[] = [];
  survey.paths.forEach((path, i) => {
    if (!isSave(path)) return;
    const modified = survey.modified[i]!;
    const build = builds.get(path);
    if (build !== undefined || !Number.isNaN(modified)) saves.push({ modified, build });
  });
  return saves;
}

/** The decision for a build, with its reasons, as it would be recorded now. */
export async function decide(installId: string, build: BuildLabel): Promise<Target> {
  const here = await installContext(installId);
  const evidence = await evidenceOf(here);
  const choices = choicesOf(here, evidence);
  const choice = choices.find((one) => one.build === build);
  if (!choice) throw new Failure('store/failed', { what: 'build', build });
  const at = Date.now();
  const weights = new Map(here.install.weights);
  const { back } = changesOf(choice, installedReleases(here), here.catalogue);
  const by = { ranked: rankChoices(choices, here.index), rolledBack: back };
  const decision = decisionFor(choice, by, weights, evidence.level, at);
  return {
    build,
    releases: [...choice.runs],
    order: personalOrder(here, choice.runs),
    decidedBy: 'choice',
    at,
    decision,
  };
}

/** The bars of each mod that was asked for, and the latest answer: the same one for the same mods. */
interface KeptBars {
  readonly byMod: Map<ModId, Bar[] | undefined>;
  answer: ReadonlyMap<ModId, Bar[]>;
}

const keptBars = keptByEvidence<KeptBars>();

/** Each of the person's mods, and of those that come in besides, with the builds that its releases count for. */
function barsAt(
  { index, catalogue, install }: InstallContext,
  evidence: Evidence,
  choices: readonly BuildChoice[],
): ReadonlyMap<ModId, Bar[]> {
  const inputs = index.builds.map(({ label }) => evidence.inputAt(label));
  const [first] = inputs;
  if (!first) return new Map();
  const barsOfMod = (id: ModId): Bar[] | undefined => {
    const mod = modById(catalogue, id);
    const support = (release: number, build: number): Support | undefined => {
      const { byItself } = assess(mod!.releases[release]!, inputs[build]!);
      if (!isAtLeast(byItself, evidence.level)) return undefined;
      return byItself === 'stated' || byItself === 'proven' ? byItself : 'weaker';
    };
    return mod && barsOf(mod.releases, inputs.length, support);
  };
  const kept = keptBars(first, evidence.level, () => ({ byMod: new Map(), answer: new Map() }));
  const answer = new Map<ModId, Bar[]>();
  for (const id of [...install.weights.map(([id]) => id), ...choices.flatMap(({ runs }) => [...runs.keys()])]) {
    if (!kept.byMod.has(id)) kept.byMod.set(id, barsOfMod(id));
    const bars = kept.byMod.get(id);
    if (bars) answer.set(id, bars);
  }
  const isSame = answer.size === kept.answer.size && [...answer.keys()].every((id) => kept.answer.has(id));
  return isSame ? kept.answer : (kept.answer = answer);
}

/** What speaks for and against the releases of one mod at a build, newest first. */
export async function evidence(installId: string, build: BuildLabel, id: ModId): Promise<EvidenceView> {
  const here = await installContext(installId);
  const input = (await evidenceOf(here)).inputAt(build);
  const mod = modById(here.catalogue, id);
  return (mod?.releases ?? [])
    .toReversed()
    .map((release) => ({ release: release.version, note: release.note, ...assess(release, input) }));
}

/** Files of a mod that cover other copies when a set of releases is laid down, and those of it that are covered. */
export async function replaced(
  installId: string,
  build: BuildLabel,
  releases: readonly (readonly [ModId, string])[],
  id: ModId,
): Promise<ReplacedView> {
  const here = await installContext(installId);
  const tree = (await treeOfTarget(here, { build, releases, order: personalOrder(here, new Map(releases)) })) ?? [];
  const isOwn = ({ owner }: TargetCopy): boolean => owner.kind === 'mod' && owner.mod === id;
  return {
    covers: tree.flatMap(({ path, covers = [], ...file }) =>
      covers.length > 0 && isOwn({ path, ...file }) ? [{ path, owners: covers.map(({ owner }) => owner) }] : [],
    ),
    coveredBy: tree.flatMap(({ path, owner, covers = [] }) => (covers.some(isOwn) ? [{ path, owners: [owner] }] : [])),
  };
}

/** Why not all must-haves run at a build, undefined where they do. */
export async function whyNot(installId: string, build: BuildLabel): Promise<WhyNot | undefined> {
  const here = await installContext(installId);
  const { weights } = here.install;
  const pins = pinsOf(here.install);
  return whyNotAll({
    catalogue: catalogueAt(await evidenceOf(here), build),
    mustHaves: weights.flatMap(([mod, weight]) => (weight === 'must' && pins.get(mod) !== null ? [mod] : [])),
    build,
    builds: here.index.builds.map(({ label }) => label),
    pins,
  });
}

/** How far apart two builds are, and what is lost of each. */
export async function twoBuilds(installId: string, from: BuildLabel, to: BuildLabel): Promise<TwoBuildsView> {
  const { trees } = await installContext(installId);
  const { changes } = patchImpact(trees.get(from) ?? [], trees.get(to) ?? []);
  const of = (kind: FileChange['change']): FileChange[] => changes.filter(({ change }) => change === kind);
  const bytes = changes.reduce(
    (sum, { change, bytes: size }) => (change === 'changed' || change === 'new' ? sum + size : sum),
    0,
  );
  return {
    changed: of('changed').length,
    fresh: of('new').length,
    gone: of('gone').length,
    moved: of('moved').length,
    bytes,
  };
}
