import { PLACES } from '#core/changes';

/** How the disk of an install is laid out. */
export const INSTALL_DISK = (install: string): string => `installs/${install}`;

export function treePath(tree: string, path = ''): string {
  return path === '' ? `trees/${tree}` : `trees/${tree}/${path}`;
}

export const KEEPSAKES = PLACES.keepsakes;

/** Where an archive lies that was packed for the person. */
export const archivePath = (name: string): string => `${KEEPSAKES}/${name}.zip`;

/** Where a file lies while it is not whole yet. */
export const partPath = (path: string): string => `${path}.part`;
