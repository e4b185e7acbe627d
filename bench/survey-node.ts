import { asBuild, asDepot, type BuildLabel } from '#core/builds';
import { contentKey } from '#core/digest';
import { type LaidFile, type Manifest, type ManifestFile, manifestFromFiles, overlay } from '#core/manifest';
import {
  compareTree,
  filterTable,
  folderTree,
  type FoundFile,
  type SurveyRow,
  surveyTable,
  distinguishingFiles,
} from '#core/survey';
import { randomFrom } from './random';

const hexOf = (random: () => number): string =>
  Array.from({ length: 8 }, () =>
    Math.floor(random() * 2 ** 32)
      .toString(16)
      .padStart(8, '0'),
  ).join('');

const pathOf = (i: number): string =>
  `area-${i % 37}/set-${Math.floor(i / 37) % 53}/part-${Math.floor(i / 1961)}/file-${i}.dat`;

const sortedPaths = (files: number): string[] => Array.from({ length: files }, (_, i) => pathOf(i)).sort();

/** A folder of `files` files and the manifest that it is held against; one file in fifty is not as it should be. */
export function makeFolder(files: number): { manifest: Manifest; found: FoundFile[] } {
  const random = randomFrom(1);
  const listed: ManifestFile[] = sortedPaths(files).map((path) => {
    const sha256 = hexOf(random);
    return { path, size: Math.floor(random() * 2 ** 20), sha256, pieces: [sha256] };
  });
  const found = listed.flatMap(({ path, size, sha256 }, i): FoundFile[] => {
    if (i % 100 === 7) return [];
    const key = contentKey(size, [i % 50 === 3 ? hexOf(random) : sha256]);
    return [{ path, size, key }];
  });
  return { manifest: manifestFromFiles(asBuild('1'), asDepot('core'), listed), found };
}

/** Holds a folder against a manifest. */
export const holdAgainst = (manifest: Manifest, found: readonly FoundFile[]): SurveyRow[] =>
  compareTree(overlay([manifest]), found);

/** What the page is shown of it, and works out from that. @returns rows that are not true */
export function showRows(rows: readonly SurveyRow[]): number {
  const table = surveyTable(rows, new Map(), new Map());
  folderTree(table);
  return rows.length - filterTable(table, { state: 0 }).length;
}

/**
 * Manifests of builds that follow one another: a few files in a hundred change in each.
 * @param sized the share of the changes that change the size; with none of them only bytes tell builds apart
 */
export function makeBuilds(builds: number, files: number, sized: number): Manifest[] {
  const random = randomFrom(2);
  let now: ManifestFile[] = sortedPaths(files).map((path) => {
    const sha256 = hexOf(random);
    return { path, size: Math.floor(random() * 2 ** 22), sha256, pieces: [sha256] };
  });
  return Array.from({ length: builds }, (_, build) => {
    if (build > 0) {
      now = now.map((file) => {
        if (random() > 0.03) return file;
        const sha256 = hexOf(random);
        const size = random() < sized ? Math.floor(random() * 2 ** 22) : file.size;
        return { ...file, size, sha256, pieces: [sha256] };
      });
    }
    return manifestFromFiles(asBuild(`1.${build}`), asDepot('core'), now);
  });
}

export function layAll(manifests: readonly Manifest[]): Map<BuildLabel, LaidFile[]> {
  const trees = new Map<BuildLabel, LaidFile[]>();
  let like: LaidFile[] = [];
  for (const manifest of manifests) trees.set(manifest.build, (like = overlay([manifest], like)));
  return trees;
}

export const distinguishing = (trees: ReadonlyMap<BuildLabel, LaidFile[]>): { files: number; smallest: boolean } => {
  const set = distinguishingFiles(trees);
  return { files: set.files.length, smallest: set.smallest };
};
