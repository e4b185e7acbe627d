import { type BuildLabel, type ModId, ownKind } from '#core/builds';
import {
  type Bar,
  barsOf,
  type BuildChoice,
  changesOf,
  chooseAll,
  decisionFor,
  rankChoices,
  type Support,
  type WhyNot,
  whyNotAll,
} from '#core/choose';
import { Failure } from '#core/failure';
import { fetchTotals, targetTree, whatToFetch } from '#core/fetch';
import { assess, type AssessInput, type FileChange, isAtLeast, patchImpact } from '#core/mend';
import { type Catalogue, modById, releaseFileKey } from '#core/mods';
import { isBelow } from '#core/paths';
import { type FoundFile, likeliestBuild, type Trees } from '#core/survey';
import { platformSha256 } from '~/services/sha256';
import { listOwnMods } from '~/store/own-mods';
import type { Target } from '~/store/records';
import { catalogueAt, choosingBy, type Evidence, evidenceOf } from './evidence';
import { type InstallContext, installContext, identities, installedReleases } from './install-context';
import { keepLast } from './keep-last';
import type { ChooseView, EvidenceView, TwoBuildsView } from './views';

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

/** The best set of the person's mods at each build, from old to new. The frame and Choose ask for the same one. */
export function choicesOf(here: InstallContext, evidence: Evidence): BuildChoice[] {
  const labels = here.index.builds.map(({ label }) => label);
  const [oldest] = labels;
  if (oldest === undefined) return [];
  const { weights, pins = [] } = here.install;
  const installed = installedReleases(here);
  const key = JSON.stringify([evidence.level, weights, pins, [...installed]]);
  return keptChoices(evidence.inputAt(oldest), key, () => {
    const options = { pins: new Map(pins), ...choosingBy(evidence) };
    return chooseAll(labels, here.catalogue, new Map(weights), installed, options);
  });
}

export async function choose(installId: string): Promise<ChooseView> {
  const here = await installContext(installId);
  const { catalogue, index, trees, installed, install } = here;
  const evidence = await evidenceOf(here);
  const choices = choicesOf(here, evidence);
  const toFetch = new Map<BuildLabel, number>();
  for (const choice of choices) {
    const bytes = await bytesToFetch(here, choice);
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
    ownMods: new Set((await listOwnMods()).map(({ id }) => id)),
    unknownFiles: unknownModFiles(here),
    weights: new Map(install.weights),
    saves: savesAt(here),
  };
}

/** What choices would have to fetch, for as long as all that it follows from is the same. */
const bytesOf = keepLast(
  (_trees: Trees, _catalogue: Catalogue, _found: readonly FoundFile[]) => new Map<string, number>(),
);
const MOST_BYTES_KNOWN = 5000;

/** Bytes that a choice would have to fetch, undefined before the first survey; worked out once for the same choice. */
async function bytesToFetch(here: InstallContext, { build, runs }: BuildChoice): Promise<number | undefined> {
  const { index, trees, depots, catalogue, found, survey } = here;
  const laid = trees.get(build);
  if (!laid || !survey || found.length === 0) return undefined;
  const bytesKnown = bytesOf(trees, catalogue, found);
  const key = JSON.stringify([build, [...runs]]);
  const known = bytesKnown.get(key);
  if (known !== undefined) return known;
  const filesHref = new Map(depots.map(({ id }) => [id, '']));
  const target = await targetTree({ index, laid, filesHref, catalogue, releases: runs }, platformSha256);
  const { toFetch } = fetchTotals(whatToFetch(target, { files: found, fetched: new Set() }));
  bytesKnown.set(key, toFetch);
  if (bytesKnown.size > MOST_BYTES_KNOWN) bytesKnown.delete(bytesKnown.keys().next().value!);
  return toFetch;
}

function savesAt({ survey, index }: InstallContext): ChooseView['saves'] {
  if (!survey) return [];
  const builds = new Map(survey.saveBuilds);
  const isSave = (path: string): boolean => ownKind(index.game.rules, path) === 'saves';
  return survey.paths.flatMap((path, i) => {
    const modified = survey.modified[i]!;
    const build = builds.get(path);
    return isSave(path) && (build !== undefined || !Number.isNaN(modified)) ? [{ modified, build }] : [];
  });
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
  return { build, releases: [...choice.runs], decidedBy: 'choice', at, decision };
}

const keptBars = keptByEvidence<Map<ModId, Bar[]>>();

/** Each of the person's mods, and of those that come in besides, with the builds that its releases count for. */
function barsAt(
  { index, catalogue, install }: InstallContext,
  evidence: Evidence,
  choices: readonly BuildChoice[],
): Map<ModId, Bar[]> {
  const inputs = index.builds.map(({ label }) => evidence.inputAt(label));
  const [first] = inputs;
  if (!first) return new Map();
  const ids = new Set([...install.weights.map(([id]) => id), ...choices.flatMap(({ runs }) => [...runs.keys()])]);
  const key = JSON.stringify([evidence.level, [...ids].sort()]);
  const bars = (id: ModId): [ModId, Bar[]][] => {
    const mod = modById(catalogue, id);
    if (!mod) return [];
    const support = (release: number, build: number): Support | undefined => {
      const { byItself } = assess(mod.releases[release]!, inputs[build]!);
      if (!isAtLeast(byItself, evidence.level)) return undefined;
      return byItself === 'stated' || byItself === 'proven' ? byItself : 'weaker';
    };
    return [[id, barsOf(mod.releases, inputs.length, support)]];
  };
  return keptBars(first, key, () => new Map([...ids].flatMap(bars)));
}

/** Files in the mods' folder that no release of a known mod has: mods that nobody knows, most likely. */
function unknownModFiles({ found, catalogue, index }: InstallContext): FoundFile[] {
  const { modsFolder, loadOrder: order } = index.game.rules;
  const releases = catalogue.mods.flatMap((mod) => mod.releases);
  const known = new Set(releases.flatMap(({ files }) => files.map(releaseFileKey)));
  return found.filter(({ path, key }) => isBelow(path, modsFolder) && path !== order && !known.has(key));
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

/** Why not all must-haves run at a build, undefined where they do. */
export async function whyNot(installId: string, build: BuildLabel): Promise<WhyNot | undefined> {
  const here = await installContext(installId);
  const { weights, pins } = here.install;
  return whyNotAll({
    catalogue: catalogueAt(await evidenceOf(here), build),
    mustHaves: weights.flatMap(([mod, weight]) => (weight === 'must' ? [mod] : [])),
    build,
    builds: here.index.builds.map(({ label }) => label),
    pins: new Map(pins ?? []),
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
