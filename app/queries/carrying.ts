import { type BuildLabel, buildOrder, type ModId } from '#core/builds';
import { coveredVanilla, type FetchItem, type TargetCopy, whatToFetch } from '#core/fetch';
import type { RecordLayout } from '#core/merge';
import { vanillaFinder } from '#core/mend';
import { type Mod, modById, type Release, releaseAt, releaseOrder } from '#core/mods';
import { fitsGlob } from '#core/paths';
import { treePath } from '~/folders';
import { contentsOf, type InstallContext, installContext, installedReleases, treeOfTarget } from './install-context';
import { partlyFetched, storedOf } from './stored';
import type { CarryBases, CarryFile, CarryView } from './views';

/* A mod that was made for one build, brought to another one: its files, and the game's that they are made from. */

/** What is asked: the release that is carried, and the build that it was made for; both are looked for where they are not named. */
export interface CarryWish {
  readonly mod: ModId;
  readonly release?: string | undefined;
  readonly from?: BuildLabel | undefined;
  readonly to: BuildLabel;
}

/** Builds that a release may be made for: those that its author names, or, where he names none, all others; the newest first. */
function madeForBuilds({ index, trees }: InstallContext, release: Release, to: BuildLabel): BuildLabel[] {
  const there = index.builds.map(({ label }) => label).filter((label) => label !== to && trees.has(label));
  const named = there.filter((label) => release.builds.includes(label));
  return (named.length > 0 ? named : there).toReversed();
}

/** The release of a mod that is carried, where none is named: the one in the folder, else the newest that is made for an older build. */
function releaseToCarry(here: InstallContext, mod: Mod, to: BuildLabel): string {
  const installed = installedReleases(here).get(mod.id);
  if (installed !== undefined && releaseAt(mod, installed)) return installed;
  const older = mod.releases.findLast(({ builds }) => !builds.includes(to) && builds.length > 0);
  return (older ?? mod.releases.at(-1)!).version;
}

/** The layout of a table of records, where the game's rules have one for it. */
function layoutOf({ index }: InstallContext, path: string): RecordLayout | undefined {
  return index.game.rules.records?.find(({ files }) => fitsGlob(path, files))?.layout;
}

/** A version that nobody has, for what is carried from another one. */
function carriedVersion(mod: Mod, version: string, to: BuildLabel): string {
  const base = `${version.split('+')[0]!}+${to}`.slice(0, 36);
  const numbered = Array.from({ length: 100 }, (_, i) => (i === 0 ? base : `${base}.${i + 1}`));
  return numbered.find((one) => releaseAt(mod, one) === undefined) ?? base;
}

/** What of some files has to be fetched, and where the others lie. */
async function whereabouts({ found, install }: InstallContext, wanted: readonly TargetCopy[]) {
  const [stored, arrived] = await Promise.all([storedOf(install), partlyFetched(install)]);
  const items = new Map<string, FetchItem>();
  for (const item of whatToFetch(wanted, { contents: contentsOf(found), stored, arrived })) items.set(item.key, item);
  return {
    missing: [...items.values()].filter(({ source }) => source.how === 'fetch'),
    placeOf: ({ key, size }: TargetCopy): CarryFile['ours'] => {
      const { source } = items.get(key)!;
      if (source.how === 'stored') return { size, key, at: source.path };
      const lies = source.how === 'keep' || source.how === 'elsewhere';
      return lies ? { size, key, at: treePath(install.tree, source.path) } : { size, key };
    },
  };
}

const isGames = ({ owner }: TargetCopy): boolean => owner.kind === 'depot';

/**
 * What it takes to carry a mod to a build.
 * @returns undefined where the mod, the build or the manifests of either build are not known
 */
export async function carry(installId: string, wish: CarryWish): Promise<CarryView | undefined> {
  const here = await installContext(installId);
  const { catalogue, index, trees, install } = here;
  const mod = modById(catalogue, wish.mod);
  if (!mod || buildOrder(index, wish.to) < 0 || !trees.has(wish.to)) return undefined;
  const version = releaseAt(mod, wish.release ?? '') ? wish.release! : releaseToCarry(here, mod, wish.to);
  const release = releaseAt(mod, version)!;
  const builds = madeForBuilds(here, release, wish.to);
  const decided = install.carries?.find(({ mod: id }) => id === mod.id);
  const isNamed = builds.some((build) => release.builds.includes(build));
  const nearest = !isNamed && decided?.nearest?.release === version ? decided.nearest : undefined;
  const from =
    builds.find((build) => build === wish.from) ??
    builds.find((build) => build === nearest?.builds[0]?.build) ??
    builds[0];
  if (from === undefined) return undefined;
  const [before, after] = await Promise.all([
    treeOfTarget(here, { build: from, releases: [[mod.id, version]] }),
    treeOfTarget(here, { build: wish.to, releases: [] }),
  ]);
  if (!before || !after) return undefined;
  const was = new Map([...before, ...coveredVanilla(before)].filter(isGames).map((file) => [file.path, file]));
  const is = new Map(after.filter(isGames).map((file) => [file.path, file]));
  const vanillaOf = vanillaFinder(was.keys(), release.touches ?? []);
  const own = before.filter(({ owner }) => owner.kind === 'mod');
  const vanilla = own.map(({ path }) => was.get(vanillaOf(path) ?? ''));
  const wanted = [
    ...own,
    ...vanilla.flatMap((file) => (file ? [file, ...(is.has(file.path) ? [is.get(file.path)!] : [])] : [])),
  ];
  const { missing, placeOf } = await whereabouts(here, wanted);
  const keys = new Map(decided?.keys?.map(({ file, columns }) => [file, columns]));
  const files = own.map((file, i): CarryFile => {
    const base = vanilla[i];
    const theirs = base && is.get(base.path);
    const state = !base ? 'own' : !theirs ? 'gone' : base.key === theirs.key ? 'unchanged' : 'changed';
    const layout = base && layoutOf(here, base.path);
    return {
      ...{ path: file.path, ours: placeOf(file), state, vanilla: base?.path },
      ...(base && { base: placeOf(base) }),
      ...(theirs && { theirs: placeOf(theirs) }),
      ...(layout && { layout }),
      ...(keys.has(file.path) && { key: keys.get(file.path)! }),
    };
  });
  return {
    ...{ mod: mod.id, name: mod.name, release: version, from, to: wish.to, builds, files, missing },
    ...{ isNamed, nearest, asksForBuild: !isNamed && !nearest && builds.length > 1 },
    releases: mod.releases
      .toSorted((a, b) => releaseOrder(mod, b.version) - releaseOrder(mod, a.version))
      .map((one) => one.version),
    version: carriedVersion(mod, version, wish.to),
    carried: mod.releases.flatMap(({ version: one, builds: own, unofficial }) =>
      one.startsWith(`${version.split('+')[0]!}+`) && unofficial !== undefined && own.includes(wish.to) ? [one] : [],
    ),
    decided: decided?.decided ?? [],
    rules: decided?.rules ?? [],
    canKeep:
      install.place.kind === 'browser-disk' || install.place.kind === 'picked' || install.place.kind === 'served',
  };
}

/**
 * The game's files that a release may be made from, at each build that it may be made for.
 * @returns undefined where the mod, its release, or the manifests of a build are not known
 */
export async function carryBases(
  installId: string,
  wish: CarryWish & { readonly release: string },
): Promise<CarryBases | undefined> {
  const here = await installContext(installId);
  const mod = modById(here.catalogue, wish.mod);
  const release = mod && releaseAt(mod, wish.release);
  const builds = release ? madeForBuilds(here, release, wish.to) : [];
  const [newest] = builds;
  if (!mod || !release || newest === undefined) return undefined;
  const before = await treeOfTarget(here, { build: newest, releases: [[mod.id, wish.release]] });
  const own = before?.filter(({ owner }) => owner.kind === 'mod') ?? [];
  const pairs: { build: BuildLabel; ours: TargetCopy; base: TargetCopy }[] = [];
  for (const build of builds) {
    const tree = await treeOfTarget(here, { build, releases: [] });
    if (!tree) return undefined;
    const vanilla = new Map(tree.filter(isGames).map((file) => [file.path, file]));
    const vanillaOf = vanillaFinder(vanilla.keys(), release.touches ?? []);
    for (const ours of own) {
      const base = vanilla.get(vanillaOf(ours.path) ?? '');
      if (base) pairs.push({ build, ours, base });
    }
  }
  const { missing, placeOf } = await whereabouts(
    here,
    pairs.flatMap(({ ours, base }) => [ours, base]),
  );
  return {
    missing,
    bases: builds.map((build) => ({
      build,
      files: pairs
        .filter((pair) => pair.build === build)
        .map(({ ours, base }) => ({ path: ours.path, ours: placeOf(ours), base: placeOf(base) })),
    })),
  };
}

/**
 * Mods that have no release for a build and are made from files of the game that it has changed, each with what it takes to carry it.
 * @param wanted mods that are looked at
 */
export async function carryable(installId: string, wanted: readonly ModId[], to: BuildLabel): Promise<CarryView[]> {
  const views = await Promise.all(wanted.map((mod) => carry(installId, { mod, to })));
  return views
    .filter((view) => view !== undefined)
    .filter(({ files }) => files.some(({ state }) => state === 'changed'));
}
