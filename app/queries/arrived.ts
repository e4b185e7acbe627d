import type { DepotIndex } from '#core/builds';
import { type DepotCopy, type KnownDepot, recogniseDepots } from '#core/depots';
import type { ContentKey } from '#core/digest';
import { isFailure } from '#core/failure';
import type { FetchItem } from '#core/fetch';
import { type Manifest, manifestFiles } from '#core/manifest';
import type { PublishedCut } from '#core/survey';
import { getIndex, getInstall, getManifest, readingsOf, type Target } from '~/store';
import { type InstallContext, installContext, learnAll } from './install-context';
import { fetchView } from './stages';
import type { BroughtFile, BroughtView } from './views';

/* Depots that came by other means: what a folder has of them. */

/** Each manifest that is here of an index, once; unchanged depots have one at several builds. */
async function knownDepots({ manifests, builds }: DepotIndex): Promise<KnownDepot[]> {
  const place = new Map(builds.map(({ label }, i) => [label, i]));
  const files = new Map<string, KnownDepot['files']>();
  const all: KnownDepot[] = [];
  for (const { sha256, build, depot } of manifests.toSorted((a, b) => place.get(a.build)! - place.get(b.build)!)) {
    let own = files.get(sha256);
    if (!own) {
      const manifest: Manifest | undefined = await getManifest(sha256);
      if (!manifest) continue;
      files.set(sha256, (own = manifestFiles(manifest).map(({ path, size, key }) => ({ path, size, key }))));
    }
    all.push({ depot, build, files: own });
  }
  return all;
}

/**
 * What a folder of depots is read by: the sizes of all known files, since nothing else can be part of a depot, and how those
 * are cut that are not cut as usual. Asks for all manifests that are not here yet.
 */
export async function depotFiles(installId: string): Promise<{ sizes: Float64Array; cuts: PublishedCut[] }> {
  const { game } = await getInstall(installId);
  const index = await getIndex(game);
  // What a source does not tell just now is recognised another time.
  await learnAll(index).catch((error: unknown) => {
    if (!isFailure(error)) throw error;
  });
  const sizes = new Set<number>();
  const cuts = new Map<string, PublishedCut>();
  for (const sha256 of new Set(index.manifests.map((entry) => entry.sha256))) {
    const manifest = await getManifest(sha256);
    manifest?.sizes.forEach((size, i) => {
      sizes.add(size);
      const pieceSize = manifest.pieceSizes?.[i];
      const path = manifest.paths[i]!;
      if (pieceSize !== undefined) cuts.set(`${size} ${path}`, { path, size, pieceSize });
    });
  }
  return { sizes: Float64Array.from(sizes), cuts: [...cuts.values()] };
}

const isWhole = ({ missing, altered }: DepotCopy): boolean => missing.length + altered.length === 0;

/** Why a depot that lies in the folder is not one of those that are wanted. */
function notWanted({ index, depots }: InstallContext, copy: DepotCopy, target: Target) {
  const depot = index.depots.find(({ id }) => id === copy.depot)!;
  if (!depots.some(({ id }) => id === copy.depot))
    return depot.kind === 'language' ? 'other-language' : depot.kind === 'add-on' ? 'not-owned' : 'not-chosen';
  return copy.build === target.build ? undefined : 'other-build';
}

const MOST_NAMED = 20;

/**
 * What of the game's depots lies in a folder that a job has read, and which of its files the target wants.
 * @returns nothing of the target's where its manifests are not here
 */
export async function arrived(installId: string, job: string, target: Target): Promise<BroughtView> {
  const here = await installContext(installId);
  const found = (await readingsOf(job)).flatMap(({ paths, sizes, keys }) =>
    paths.map((path, i) => ({ path, size: sizes[i]!, key: keys[i]! })),
  );
  const files = [...new Map(found.map((one) => [one.path, one])).values()];
  const known = await knownDepots(here.index);
  const copies = recogniseDepots(files, known, target.build);
  const seen = new Set<string>();
  const at = new Map<ContentKey, string>(files.map(({ key, path }) => [key, path]));
  const wanted = new Map<ContentKey, FetchItem>();
  for (const item of (await fetchView(installId, target))?.items ?? [])
    if (item.source.how === 'fetch' && at.has(item.key)) wanted.set(item.key, item);
  return {
    report: {
      build: target.build,
      files: files.length,
      depots: copies.map((copy) => {
        const name = JSON.stringify([copy.depot, copy.build]);
        const isAgain = seen.has(name) && isWhole(copy);
        if (isWhole(copy)) seen.add(name);
        const { missing, altered, ...rest } = copy;
        return {
          ...rest,
          title: here.index.depots.find(({ id }) => id === copy.depot)!.title,
          missing: { count: missing.length, some: missing.slice(0, MOST_NAMED) },
          altered: { count: altered.length, some: altered.slice(0, MOST_NAMED) },
          isAgain,
          why: notWanted(here, copy, target),
        };
      }),
    },
    take: [...wanted].map(([key, { sha256, size }]): BroughtFile => ({ key, sha256, size, path: at.get(key)! })),
  };
}
