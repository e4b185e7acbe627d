import {
  type BuildLabel,
  BuildLabelSchema,
  type Depot,
  DepotIdSchema,
  type DepotIndex,
  DepotIndexSchema,
  type Game,
  ownKind,
} from '#core/builds';
import type { Sha256 } from '#core/digest';
import { Failure } from '#core/failure';
import { manifestFromFiles, type ManifestFile, writeMetalink } from '#core/manifest';
import { isBelow } from '#core/paths';
import { byDate } from './declare';

/* A source of builds, made of folders: an index and a manifest a depot, to be put on any static web server. */

/** The build that a source gets. */
export interface NewBuild {
  readonly label: string;
  /** ISO date, such as 2026-01-31. */
  readonly date: string;
  /** The branch that it is the head of from then on; none, where it came out on none. */
  readonly branch?: string | undefined;
}

/** A depot of a build, in laying order, with its files sorted by path. */
export interface NewDepot extends Pick<Depot, 'kind'> {
  readonly id: string;
  readonly title?: string;
  readonly language?: string;
  readonly files: readonly ManifestFile[];
}

/** Whether a source has the files themselves, or tells of them only. */
export type SourceHas = 'files' | 'manifests';

/** What is to be written: the index, and the texts of manifests by their paths beside it. */
export interface MadeSource {
  readonly index: DepotIndex;
  readonly manifests: ReadonlyMap<string, string>;
}

/**
 * Why a file of a folder does not go into a source; undefined for one that does. What is the player's own, and what mods are,
 * is nobody else's: it stays at home. The file with a loader's switch is the game's, but for that one value.
 * @param isShipped whether a file that the rules name as the player's comes with the build
 */
export function leftOut(
  { rules }: Game,
  path: string,
  isShipped: (path: string) => boolean = () => false,
): 'own' | 'mod' | undefined {
  const isMod = (rules.modsFolder !== undefined && isBelow(path, rules.modsFolder)) || path === rules.loadOrder;
  const isOwn = ownKind(rules, path) !== undefined && path !== rules.loaderSwitch?.file && !isShipped(path);
  if (isOwn) return 'own';
  return isMod ? 'mod' : undefined;
}

/** A label, or a depot, as a folder's name that every file system and address can hold. */
const asName = (text: string): string => encodeURIComponent(text).replaceAll(/[%.~!'()*]/g, '_');

const manifestPath = (build: string, depot: string): string => `manifests/${asName(build)}/${depot}.meta4`;
/** Where the files of a depot lie beside the index. */
export const filesPath = (build: string, depot: string): string => `files/${asName(build)}/${depot}/`;

/** Depots that have a path in common: in which order they are laid decides then. */
function overlapping(depots: readonly NewDepot[]): Set<string> {
  const owner = new Map<string, string>();
  const both = new Set<string>();
  for (const { id, files } of depots) {
    for (const { path } of files) {
      const other = owner.get(path);
      if (other !== undefined && other !== id) both.add(other).add(id);
      owner.set(path, id);
    }
  }
  return both;
}

export interface MakeOptions {
  readonly sha256: Sha256;
  readonly has: SourceHas;
}

/** Where a bundle of a depot lies beside the index: with all of its files, or with what is new against another build. */
export const bundlePath = (build: string, depot: string, from?: string): string =>
  `bundles/${asName(build)}/${depot}${from === undefined ? '' : `-from-${asName(from)}`}.zst`;

/** Where its index lies. */
export const bundleIndexPath = (bundle: string): string => bundle.replace(/zst$/, 'json.gz');

/** Builds whose neighbours need the way to and from them: those beside a build by date, and the heads of branches. */
export function buildsToBridge({ builds, branches }: DepotIndex, label: string): BuildLabel[] {
  const at = builds.findIndex((build) => build.label === label);
  const beside = [builds[at - 1], builds[at + 1]].flatMap((build) => (build ? [build.label] : []));
  const all = [...beside, ...branches.map(({ build }) => build)];
  return [...new Set(all)].filter((build) => build !== label);
}

/** A bundle that was made, and the depot that it is of. */
export interface MadeBundle extends Bundle {
  readonly bytes: number;
  readonly build: string;
  readonly depot: string;
}
type Bundle = NonNullable<DepotIndex['manifests'][number]['bundles']>[number];

/** An index that tells of bundles as well. */
export const withBundles = (index: DepotIndex, made: readonly MadeBundle[]): DepotIndex => ({
  ...index,
  manifests: index.manifests.map((entry) => {
    const own = made.flatMap(({ build, depot, ...bundle }) =>
      build === entry.build && depot === entry.depot ? [bundle] : [],
    );
    return own.length === 0 ? entry : { ...entry, bundles: [...(entry.bundles ?? []), ...own] };
  }),
});

/**
 * Adds a build to a source.
 * @param before the source as it is; undefined for a new one
 * @param depots in laying order
 * @throws Failure `source/exists` where it has the build already, or one whose files would lie at the same place,
 *   `json/does-not-fit` with what is not as it should be
 */
export async function makeSource(
  before: DepotIndex | undefined,
  game: Game,
  { label, date, branch }: NewBuild,
  depots: readonly NewDepot[],
  { sha256, has }: MakeOptions,
): Promise<MadeSource> {
  const build = read(BuildLabelSchema.safeParse(label), 'label', label);
  // Two labels may come to one name, and the files of both would lie in one folder.
  const same = before?.builds.find((one) => asName(one.label) === asName(build));
  if (same) throw new Failure('source/exists', { found: same.label });
  const orderMatters = overlapping(depots);
  const known = new Map(before?.depots.map((depot) => [depot.id as string, depot]));
  let next = Math.max(0, ...(before?.depots ?? []).map(({ order }) => order));
  const manifests = new Map<string, string>();
  const entries: DepotIndex['manifests'] = [];
  const all: Depot[] = [...(before?.depots ?? [])];
  for (const { id: said, title, kind, language, files } of depots) {
    const id = read(DepotIdSchema.safeParse(said), 'depot', said);
    const old = known.get(id);
    if (!old)
      all.push({
        id,
        title: title ?? id,
        kind,
        order: ++next,
        orderMatters: orderMatters.has(id),
        ...(language && { language }),
      });
    else if (orderMatters.has(id)) all[all.indexOf(old)] = { ...old, orderMatters: true };
    const base = filesPath(build, id);
    const path = manifestPath(build, id);
    const up = '../'.repeat(path.split('/').length - 1);
    const text = writeMetalink(
      manifestFromFiles(build, id, files),
      (file) => up + base + file.split('/').map(encodeURIComponent).join('/'),
    );
    manifests.set(path, text);
    entries.push({
      ...{ build, depot: id, href: path, filesHref: has === 'files' ? base : '', sha256: await sha256(text) },
      ...{ files: files.length, bytes: files.reduce((sum, { size }) => sum + size, 0) },
    });
  }
  const builds = [...(before?.builds ?? []), { label: build, date, ...(branch !== undefined && { branch }) }];
  const index = {
    ...{ format: 'regressum-depot-index', version: 1, game },
    builds: byDate(builds),
    branches: [
      ...(before?.branches ?? []).filter(({ name }) => name !== branch),
      ...(branch === undefined ? [] : [{ name: branch, build: headOf(builds, build, branch), needsCode: false }]),
    ],
    depots: all,
    manifests: [...(before?.manifests ?? []), ...entries],
  };
  return { index: read(DepotIndexSchema.safeParse(index), 'index', label), manifests };
}

/** The newest build of a branch: adding an older one later does not turn the branch back. */
function headOf(
  builds: readonly { label: BuildLabel; date: string; branch?: string | undefined }[],
  added: BuildLabel,
  branch: string,
) {
  const own = builds.filter((one) => one.branch === branch);
  return own.toSorted((a, b) => (a.date < b.date ? -1 : 1)).at(-1)?.label ?? added;
}

interface Parsed<T> {
  readonly success: boolean;
  readonly data?: T;
  readonly error?: { readonly issues: readonly { path: PropertyKey[]; message: string }[] };
}

/** What a schema has read. @throws Failure `json/does-not-fit` with the field */
function read<T>({ success, data, error }: Parsed<T>, what: string, found: string): T {
  if (success) return data!;
  const [issue] = error!.issues;
  const field = [what, ...issue!.path.map(String)].join('.');
  throw new Failure('json/does-not-fit', { file: found, line: 1, field, problem: issue!.message });
}
