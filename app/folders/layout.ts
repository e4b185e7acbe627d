import type { LayDownWay } from '#core/assemble';
import { PLACES } from '#core/changes';

/** How the disk of an install is laid out: its trees, what was fetched for it, and the storefront's record. */
export const INSTALL_DISK = (install: string): string => `installs/${install}`;
export const RECORD_PATH = 'quayline/record.json';

/** How a target may be laid down in a folder: folders that were picked cannot be moved, so nothing is swapped there. */
export const layDownWays = ({ kind }: { readonly kind: string }): readonly LayDownWay[] =>
  kind === 'picked' ? ['in-place'] : ['beside', 'in-place'];

export function treePath(tree: string, path = ''): string {
  return path === '' ? `trees/${tree}` : `trees/${tree}/${path}`;
}

export const FETCHED = PLACES.arrived;

/** Where a fetched content is put aside, by the SHA-256 of the whole; `.part` while it is still arriving. */
export function fetchedPath(sha256: string): string {
  return `${FETCHED}/${sha256}`;
}

export const KEEPSAKES = 'keepsakes';

export const keepsakePath = (name: string): string => `${KEEPSAKES}/${name}.zip`;

/** Where a file lies while it is not whole yet. */
export const partPath = (path: string): string => `${path}.part`;
