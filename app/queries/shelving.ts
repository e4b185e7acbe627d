import type { ModId } from '#core/builds';
import { keySize } from '#core/digest';
import { modById, releaseAt, releaseFileKey } from '#core/mods';
import { treePath } from '~/folders';
import type { Target } from '~/store';
import { keptContents } from './history';
import { type InstallContext, installContext, installedReleases, isFresh } from './install-context';
import type { ShelvedFrom } from './views';

/* Releases that lie in the folder, and are not on the shelf yet. */

async function shelvableOf(here: InstallContext, mods: readonly ModId[]): Promise<ShelvedFrom[]> {
  const { catalogue, install } = here;
  const kept = await keptContents(install.id);
  const onDisk = installedReleases(here);
  const isShelved = (mod: ModId, version: string): boolean =>
    kept?.some(
      ({ reason, missing }) =>
        reason.kind === 'release' &&
        reason.game === install.game &&
        reason.mod === mod &&
        reason.release === version &&
        missing === 0,
    ) === true;
  const paths = new Map(here.found.map(({ key, path }) => [key, path]));
  return mods.flatMap((mod): ShelvedFrom[] => {
    const version = onDisk.get(mod);
    const known = version === undefined ? undefined : modById(catalogue, mod);
    const release = known && releaseAt(known, version!);
    if (!release) return [];
    const keys = release.files.filter(({ size }) => size > 0).map(releaseFileKey);
    // One of which a file is altered or missing in the folder is not kept whole, but as far as it is there.
    const there = isShelved(mod, version!) ? [] : keys.filter((key) => paths.has(key));
    const from = there.map((key) => [key, treePath(install.tree, paths.get(key)!)] as const);
    return [{ mod, release: version!, keys: there, from }];
  });
}

/** Releases of mods in the folder, with where the contents of their files lie there; without keys where the shelf has it whole. */
export const shelvable = async (installId: string, mods: readonly ModId[]): Promise<ShelvedFrom[]> =>
  shelvableOf(await installContext(installId), mods);

/** As {@link shelvable}, of the releases in the folder that are not among those that stay, and not on the shelf. */
async function leavingOf(here: InstallContext, stay: Target['releases']): Promise<ShelvedFrom[]> {
  const staying = new Map(stay);
  const leaving = [...installedReleases(here)].flatMap(([mod, version]) => (staying.get(mod) === version ? [] : [mod]));
  return (await shelvableOf(here, leaving)).filter(({ keys }) => keys.length > 0);
}

export const leaving = async (installId: string, stay: Target['releases']): Promise<ShelvedFrom[]> =>
  leavingOf(await installContext(installId), stay);

/** As {@link leaving}, of the releases in the folder that nobody offers any more. */
export async function withdrawnHere(installId: string): Promise<ShelvedFrom[]> {
  const here = await installContext(installId);
  // What is not as it was read is not kept as what it was.
  if (!isFresh(here)) return [];
  const isOffered = ([id, version]: readonly [ModId, string]): boolean =>
    releaseAt(modById(here.catalogue, id)!, version)?.withdrawn === undefined;
  return leavingOf(here, [...installedReleases(here)].filter(isOffered));
}

/** Bytes that go onto the shelf before a target is laid down, at the most: the releases that it takes out of the folder. */
export async function bytesToShelve(here: InstallContext, { releases }: Pick<Target, 'releases'>): Promise<number> {
  const keys = new Set((await leavingOf(here, releases)).flatMap((one) => one.keys));
  return [...keys].reduce((sum, key) => sum + keySize(key), 0);
}
