import type { ModId } from '#core/builds';
import { mergeModList, readModList } from '#core/mod-list';
import type { ContentKey } from '#core/digest';
import { type Contest, modById, releaseAt, releaseFileKey, statedRules, winnerOf } from '#core/mods';
import { keysByPath, likeliestBuild } from '#core/survey';
import type { ListedMod } from '#core/tables';
import { saidCatalogues } from '~/store';
import {
  identities,
  type InstallContext,
  installContext,
  installedReleases,
  listThatCounts,
  orderFor,
} from './install-context';
import type { OrderView } from './views';

/* The order in which mods are loaded, and who has a file by it. */

/** Files that several mods bring or that cover one of the game, by path. */
function contestsOf({ catalogue }: InstallContext, releases: OrderView['releases'], vanilla: ReadonlySet<string>) {
  const byPath = new Map<string, { path: string; mods: ModId[] }>();
  for (const [id, version] of releases) {
    const mod = modById(catalogue, id);
    for (const { path } of (mod && releaseAt(mod, version))?.files ?? []) {
      // One path where capitals do not count; a folder has it once.
      const same = path.toLowerCase();
      const one = byPath.get(same);
      if (one) one.mods.push(id);
      else byPath.set(same, { path, mods: [id] });
    }
  }
  return [...byPath.values()].flatMap(({ path, mods }): Contest[] => {
    const isVanilla = vanilla.has(path.toLowerCase());
    return mods.length > 1 || isVanilla ? [{ path, mods, isVanilla }] : [];
  });
}

/** Contested files of the folder that are the copy of a mod which does not have them by this order. */
function misplacedCopies(
  { catalogue, found }: InstallContext,
  { order, contests, releases }: Pick<OrderView, 'order' | 'contests' | 'releases'>,
) {
  const there = keysByPath(found);
  const keyOf = (id: ModId, path: string): ContentKey | undefined => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, releases.get(id)!);
    const file = release?.files.find((one) => one.path.toLowerCase() === path.toLowerCase());
    return file && releaseFileKey(file);
  };
  return contests.flatMap((contest) => {
    const { path, mods } = contest;
    const is = there.get(path);
    if (mods.length < 2 || is === undefined || is === keyOf(winnerOf(contest, order), path)) return [];
    return mods.some((id) => keyOf(id, path) === is) ? [path] : [];
  });
}

/** The releases that lie in the folder; those of the target, where none lies there. */
function releasesThatCount(here: InstallContext) {
  const installed = installedReleases(here);
  const isInFolder = installed.size > 0;
  return { isInFolder, releases: isInFolder ? installed : new Map(here.install.target?.releases) };
}

/** The mods that lie in the folder in the order in which they are to be loaded; those of the target, where none lies there. */
export async function order(installId: string): Promise<OrderView> {
  const at = Date.now();
  const here = await installContext(installId);
  const { install, catalogue, index, trees, survey } = here;
  const { isInFolder, releases } = releasesThatCount(here);
  const onDisk = likeliestBuild(identities(here), trees.keys());
  const { order: planned, broken, pairs } = orderFor(here, releases);
  const { loadOrder: listPath, listSyntax } = index.game.rules;
  const isKnown = (id: string): boolean => modById(catalogue, id) !== undefined;
  const vanilla = new Set((onDisk && trees.get(onDisk))?.map(({ path }) => path.toLowerCase()));
  const text = mergeModList(listThatCounts(here), planned, isKnown, listSyntax);
  const contests = contestsOf(here, releases, vanilla);
  const isListed = listPath === undefined || text === (survey?.modList ?? '');
  return {
    ...{ at, onDisk, catalogue, releases, order: planned, broken, pairs, listPath, contests },
    isInFolder,
    rules: statedRules(catalogue, releases, install.orderRules ?? []),
    strangers: readModList(listThatCounts(here), listSyntax).filter((id) => !isKnown(id)),
    wasEmptied: survey?.lastModList !== undefined,
    isListed,
    toLay: isInFolder ? misplacedCopies(here, { order: planned, contests, releases }) : [],
  };
}

/** The order of some releases, as a person, the folder and the rules have it. */
export async function orderOf(
  installId: string,
  releases: readonly (readonly [ModId, string])[],
): Promise<readonly ModId[]> {
  return orderFor(await installContext(installId), new Map(releases)).order;
}

/** An address without what may be a person's own: a name, a password, a token. */
function publicAddress(href: string): string {
  const address = new URL(href);
  for (const part of ['username', 'password', 'search', 'hash'] as const) address[part] = '';
  return address.href;
}

/** Where the sources of a game have each release from, in a person's words: the first of them that has it. */
async function sourcesOf(game: string): Promise<(mod: ModId, version: string) => string | undefined> {
  const told = await saidCatalogues(game);
  return (id, version) => {
    const has = told.find(({ catalogue }) => {
      const mod = modById(catalogue, id);
      return mod && releaseAt(mod, version) !== undefined;
    })?.source;
    if (!has) return undefined;
    return has.kind === 'address' ? publicAddress(has.href) : has.kind === 'handed' ? has.title : 'the storefront';
  };
}

/** The mods of a folder in load order, as a list for others: what lies there, or what the target has where nothing does. */
export async function sharedList(installId: string): Promise<ListedMod[]> {
  const here = await installContext(installId);
  const { install, catalogue, trees } = here;
  const { isInFolder, releases } = releasesThatCount(here);
  const build = (isInFolder ? likeliestBuild(identities(here), trees.keys()) : install.target?.build) ?? '';
  const weights = new Map(install.weights);
  const sourceOf = await sourcesOf(install.game);
  return orderFor(here, releases).order.map((id): ListedMod => {
    const [mod, version] = [modById(catalogue, id)!, releases.get(id)!];
    const source = releaseAt(mod, version)?.unofficial ?? sourceOf(id, version) ?? '';
    return { mod: mod.name, release: version, build, role: weights.get(id) ?? 'needed', source };
  });
}
