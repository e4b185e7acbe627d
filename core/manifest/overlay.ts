import type { ContentKey } from '#core/digest';
import type { DepotId } from '#core/builds';
import { fileAt, type Manifest, type ManifestFile } from './manifest';

/** A file of the tree that results when depots are laid over one another. */
export interface LaidFile extends ManifestFile {
  readonly key: ContentKey;
  /** The depot whose copy stays. */
  readonly depot: DepotId;
  /** Depots whose copies lie below and are never fetched nor written, lowest first. */
  readonly covers: readonly DepotId[];
}

/**
 * Lays manifests over one another: for each path the copy of the last one that has it stays.
 * @param inLayingOrder lowest first; the order decides
 * @returns one entry a path, sorted by path in code-unit order
 */
export function overlay(inLayingOrder: readonly Manifest[]): LaidFile[] {
  const top = new Map<string, { manifest: Manifest; index: number; covers: DepotId[] }>();
  for (const manifest of inLayingOrder) {
    manifest.paths.forEach((path, index) => {
      const below = top.get(path);
      const covers = below ? [...below.covers, below.manifest.depot] : [];
      top.set(path, { manifest, index, covers });
    });
  }
  return [...top.keys()].toSorted().map((path) => {
    const { manifest, index, covers } = top.get(path)!;
    return { ...fileAt(manifest, index), depot: manifest.depot, covers };
  });
}

/** For each depot the bytes that stay and the bytes that are covered, by the folder that `folder` names for a path. */
export function layerFolders(
  inLayingOrder: readonly Manifest[],
  laid: readonly LaidFile[],
  folder: (path: string) => string,
): { depot: DepotId; folders: Map<string, { stays: number; covered: number }> }[] {
  const winner = new Map(laid.map((file) => [file.path, file.depot]));
  return inLayingOrder.map((manifest) => {
    const folders = new Map<string, { stays: number; covered: number }>();
    manifest.paths.forEach((path, i) => {
      const name = folder(path);
      const sum = folders.get(name) ?? { stays: 0, covered: 0 };
      if (winner.get(path) === manifest.depot) sum.stays += manifest.sizes[i]!;
      else sum.covered += manifest.sizes[i]!;
      folders.set(name, sum);
    });
    return { depot: manifest.depot, folders };
  });
}
