import type { ContentKey } from '#core/digest';
import type { DepotId } from '#core/builds';
import { fileAt, isFileAt, type Manifest, type ManifestFile } from './manifest';

/** A file of the tree that results when depots are laid over one another. */
export interface LaidFile extends ManifestFile {
  readonly key: ContentKey;
  /** The depot whose copy stays. */
  readonly depot: DepotId;
  /** Depots whose copies lie below and are never fetched nor written, lowest first. */
  readonly covers: readonly DepotId[];
}

/** Walks the files of a manifest by path, whatever order its columns have. */
class Layer {
  readonly #order: readonly number[] | undefined;
  #at = 0;
  /** The path of the file that it stands at; undefined behind the last. */
  path: string | undefined;

  constructor(readonly manifest: Manifest) {
    const { paths } = manifest;
    const sorted = paths.every((path, i) => i === 0 || paths[i - 1]! < path);
    if (!sorted) this.#order = [...paths.keys()].sort((a, b) => (paths[a]! < paths[b]! ? -1 : 1));
    this.path = paths[this.place];
  }

  /** Where the file stands in the columns. */
  get place(): number {
    return this.#order ? this.#order[this.#at]! : this.#at;
  }

  next(): void {
    this.#at += 1;
    this.path = this.manifest.paths[this.place];
  }
}

/** Written out, since spreading costs several times as much and there are millions. */
function laidFile(file: ReturnType<typeof fileAt>, depot: DepotId, covers: readonly DepotId[]): LaidFile {
  const { path, size, sha256, pieces, pieceSize, key } = file;
  return pieceSize === undefined
    ? { path, size, sha256, pieces, key, depot, covers }
    : { path, size, sha256, pieces, pieceSize, key, depot, covers };
}

const NOTHING: readonly DepotId[] = [];

const sameDepots = (a: readonly DepotId[], b: readonly DepotId[]): boolean =>
  a.length === b.length && a.every((depot, i) => depot === b[i]);

/**
 * Lays manifests over one another: for each path the copy of the last one that has it stays.
 * @param inLayingOrder lowest first; the order decides
 * @param like a tree that was laid before, of a build near to this one: files that are the same in both are shared, so
 *   that many builds take little more memory, and time, than what differs between them
 * @returns one entry a path, sorted by path in code-unit order
 */
export function overlay(inLayingOrder: readonly Manifest[], like: readonly LaidFile[] = []): LaidFile[] {
  const layers = inLayingOrder.map((manifest) => new Layer(manifest));
  const laid: LaidFile[] = [];
  let likeAt = 0;
  for (;;) {
    let path: string | undefined;
    for (const layer of layers) {
      if (layer.path !== undefined && (path === undefined || layer.path < path)) path = layer.path;
    }
    if (path === undefined) return laid;
    let top: { manifest: Manifest; place: number } | undefined;
    let covers = NOTHING;
    for (const layer of layers) {
      if (layer.path !== path) continue;
      if (top) covers = [...covers, top.manifest.depot];
      top = { manifest: layer.manifest, place: layer.place };
      layer.next();
    }
    const { manifest, place } = top!;
    while (likeAt < like.length && like[likeAt]!.path < path) likeAt += 1;
    const earlier = like[likeAt];
    const same =
      earlier?.path === path &&
      earlier.depot === manifest.depot &&
      sameDepots(earlier.covers, covers) &&
      isFileAt(manifest, place, earlier);
    laid.push(same ? earlier : laidFile(fileAt(manifest, place), manifest.depot, covers));
  }
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
