import { Failure } from '#core/failure';
import { isBelow, PathSet } from '#core/paths';
import { BAG_PAYLOAD, bagChecksums } from './bag';

/** Ways of summing a bag's files that are understood, the strongest first (RFC 8493, section 2.4; the last two are of older bags). */
export const BAG_SUMS = ['sha512', 'sha256', 'sha1', 'md5'] as const;
export type BagSum = (typeof BAG_SUMS)[number];

const MOST_FILES = 100_000;

const malformed = (file: string, what: string): Failure => new Failure('bag/malformed', { file, what });

/** The folder of an archive that is a bag: its root, or its only folder. @throws Failure `bag/malformed` */
export function bagRoot(file: string, paths: Iterable<string>): string {
  for (const path of paths) if (/^(?:[^/]+\/)?bagit\.txt$/.test(path)) return path.slice(0, -'bagit.txt'.length);
  throw malformed(file, 'it has no bagit.txt, and so no list of checksums in BagIt form');
}

/** A file of a bag's payload, and the digest that its manifest has. */
export interface ListedInBag {
  /** Below the payload. */
  readonly path: string;
  readonly hex: string;
}

/**
 * Holds the payload of a bag against its strongest manifest: each file is listed once, and is there; none is there that is
 * not listed.
 * @param paths of all files below the bag
 * @param manifests texts by way of summing
 * @throws Failure `bag/malformed`, `path/*`
 */
export function readBag(
  file: string,
  paths: Iterable<string>,
  manifests: ReadonlyMap<BagSum, string>,
): { readonly sum: BagSum; readonly files: readonly ListedInBag[] } {
  const sum = BAG_SUMS.find((one) => manifests.has(one));
  if (!sum) throw malformed(file, 'it has no manifest in SHA-512, SHA-256, SHA-1 or MD5');
  const all = new Set(paths);
  if (all.has('fetch.txt')) throw malformed(file, 'some of its files are to be fetched from elsewhere');
  const listed = bagChecksums(manifests.get(sum)!);
  const safe = new PathSet();
  const files = [...listed].map(([path, hex]): ListedInBag => {
    if (!isBelow(path, BAG_PAYLOAD))
      throw malformed(file, `its manifest lists "${path}", which is no part of its payload`);
    if (!all.has(path)) throw malformed(file, `"${path}" is missing`);
    const below = path.slice(BAG_PAYLOAD.length + 1);
    safe.add(below, { file });
    return { path: below, hex };
  });
  const unlisted = [...all].find((path) => isBelow(path, BAG_PAYLOAD) && !listed.has(path));
  if (unlisted !== undefined) throw malformed(file, `"${unlisted}" is not in its manifest`);
  if (files.length === 0) throw malformed(file, 'it is empty');
  if (files.length > MOST_FILES) throw malformed(file, `it has more than ${MOST_FILES} files`);
  return { sum, files };
}
