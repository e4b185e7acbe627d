import { type ContentKey, contentKey } from '#core/digest';
import type { ModId } from '#core/builds';
import type { Catalogue, Mod, Release, ReleaseFile } from './schema';

/** A mod that was found on disk by the bytes of its files. */
export interface InstalledMod {
  readonly mod: ModId;
  /** The release with the most of its files here; of two with equally many, the newer. */
  readonly release: string;
  readonly found: number;
  readonly total: number;
  /** Where its files lie, each with the place at which the release wants it. Equal when it lies right. */
  readonly files: readonly { readonly path: string; readonly place: string }[];
  /** Other releases of which a file lies here that the chosen one does not have. */
  readonly alsoHere: readonly string[];
}

interface Found {
  readonly path: string;
  readonly key: ContentKey;
}

/** The digest of a file of one piece is its only piece's. */
export function releaseFileKey({ size, sha256, pieces = [sha256] }: ReleaseFile): ContentKey {
  return contentKey(size, pieces);
}

function filesHere(
  files: readonly ReleaseFile[],
  byKey: ReadonlyMap<ContentKey, readonly string[]>,
): InstalledMod['files'] {
  return files.flatMap((file) => {
    const paths = byKey.get(releaseFileKey(file)) ?? [];
    const path = paths.includes(file.path) ? file.path : paths[0];
    return path === undefined ? [] : [{ path, place: file.path }];
  });
}

function recognise(
  mod: Mod,
  byKey: ReadonlyMap<ContentKey, readonly string[]>,
  isPreset: (path: string) => boolean,
): InstalledMod | undefined {
  const telling = ({ files }: Release): ReleaseFile[] => files.filter(({ path }) => !isPreset(path));
  const candidates = mod.releases
    .map((release) => ({ release, files: filesHere(telling(release), byKey) }))
    .filter(({ files }) => files.length > 0);
  const best = candidates.toReversed().toSorted((a, b) => b.files.length - a.files.length)[0];
  if (!best) return undefined;
  const own = new Set(best.files.map(({ path }) => path));
  return {
    mod: mod.id,
    release: best.release.version,
    found: best.files.length,
    total: telling(best.release).length,
    files: best.files,
    alsoHere: candidates
      .filter(({ files }) => files.some(({ path }) => !own.has(path)))
      .map(({ release }) => release.version),
  };
}

/**
 * The mods whose files lie among `found`, wherever they lie, in the catalogue's order.
 * @param isPreset whether a file is a setting of a mod's: such stay when the mod goes, and are changed, so they tell nothing
 */
export function recogniseMods(
  found: readonly Found[],
  catalogue: Catalogue,
  isPreset: (path: string) => boolean = () => false,
): InstalledMod[] {
  const byKey = new Map<ContentKey, string[]>();
  for (const { path, key } of found) {
    if (isPreset(path)) continue;
    const paths = byKey.get(key);
    if (paths) paths.push(path);
    else byKey.set(key, [path]);
  }
  return catalogue.mods.map((mod) => recognise(mod, byKey, isPreset)).filter((mod) => mod !== undefined);
}
