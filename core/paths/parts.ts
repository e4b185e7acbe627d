/** The folder a path lies in, `''` at the root. */
export function folderOf(path: string): string {
  const slash = path.lastIndexOf('/');
  return slash < 0 ? '' : path.slice(0, slash);
}

export function fileName(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

/** The first folder of a path; a file at the root answers `''`. */
export function topFolder(path: string): string {
  const slash = path.indexOf('/');
  return slash < 0 ? '' : path.slice(0, slash);
}

/** How many folders lie above the file. */
export function depthOf(path: string): number {
  return path.split('/').length - 1;
}

/** Whether `path` lies in `folder` or deeper. Every path lies below `''`. */
export function isBelow(path: string, folder: string): boolean {
  return folder === '' || path.startsWith(`${folder}/`);
}
