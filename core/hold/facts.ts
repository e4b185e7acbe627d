import type { BuildLabel, DepotIndex, ModId, Ownership } from '#core/builds';
import { countingDepots } from '#core/builds';
import { type ContentKey, type Sha256, treeDigest } from '#core/digest';
import type { TargetFile } from '#core/fetch';
import { writeModList } from '#core/mod-list';
import {
  type Catalogue,
  knownReleases,
  loadOrder,
  modById,
  releaseAt,
  type ReleaseFile,
  releaseFileKey,
} from '#core/mods';
import type { HoldSheet } from './sheet';

/** What of a sheet follows from its build, ownership and releases, and can be worked out again by anybody. */
export type SheetFacts = Pick<
  HoldSheet,
  'depots' | 'treeDigest' | 'files' | 'bytes' | 'releases' | 'loadOrder' | 'modList'
>;

/** What a sheet can be made of. */
export interface SheetSubject {
  readonly build: BuildLabel;
  readonly ownership: Ownership;
  readonly releases: Parameters<typeof knownReleases>[1];
  /** The mods in the order in which a person has them. */
  readonly order?: readonly ModId[] | undefined;
}

/** @param tree that this build, ownership and these releases make */
export async function sheetFacts(
  { build, ownership, releases: wanted, order }: SheetSubject,
  { index, catalogue }: { readonly index: DepotIndex; readonly catalogue: Catalogue },
  tree: readonly TargetFile[],
  sha256: Sha256,
): Promise<SheetFacts> {
  const releases = knownReleases(catalogue, wanted);
  const running = [...loadOrder(catalogue, releases, order)];
  const list = tree.flatMap(({ owner }) => (owner.kind === 'written' ? [owner.text] : []))[0];
  return {
    depots: countingDepots(index, ownership).flatMap(({ id }) => {
      const entry = index.manifests.find((m) => m.build === build && m.depot === id);
      return entry ? [{ id, manifestSha256: entry.sha256, files: entry.files, bytes: entry.bytes }] : [];
    }),
    treeDigest: await treeDigest(tree, sha256),
    files: tree.length,
    bytes: tree.reduce((sum, { size }) => sum + size, 0),
    releases: await Promise.all(
      [...releases].map(async ([mod, release]) => {
        const known = modById(catalogue, mod)!;
        const { files } = releaseAt(known, release)!;
        const digest = await releaseDigest(files, sha256);
        return { mod, name: known.name, release, files: files.length, digest };
      }),
    ),
    loadOrder: running,
    ...(list !== undefined && list !== writeModList(running, index.game.rules.listSyntax) && { modList: list }),
  };
}

/** Tree digest of a release's own files. */
export const releaseDigest = (files: readonly ReleaseFile[], sha256: Sha256): Promise<string> =>
  treeDigest(
    files.map((file) => ({ path: file.path, key: releaseFileKey(file) })),
    sha256,
  );

/**
 * Releases of a sheet that a catalogue does not have, or has with other files than the sheet's: as the sheet calls them. What lies
 * in a folder cannot be held against them.
 */
export async function unknownReleases(
  releases: HoldSheet['releases'],
  catalogue: Catalogue,
  sha256: Sha256,
): Promise<string[]> {
  const isKnown = async ({ mod: id, release: version, digest }: HoldSheet['releases'][number]): Promise<boolean> => {
    const mod = modById(catalogue, id);
    const release = mod && releaseAt(mod, version);
    return release !== undefined && (digest === undefined || digest === (await releaseDigest(release.files, sha256)));
  };
  const known = await Promise.all(releases.map(isKnown));
  return releases.flatMap(({ name, release }, i) => (known[i] ? [] : [`${name} ${release}`]));
}

/** What a sheet says of the player's settings, of those that lie there. */
export async function settingsFact(
  settings: readonly { readonly path: string; readonly key: ContentKey }[],
  sha256: Sha256,
): Promise<NonNullable<HoldSheet['settings']>> {
  return { files: settings.length, digest: await treeDigest(settings, sha256) };
}
