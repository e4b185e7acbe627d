import { type FailureCode } from '#core/failure';
import { fileFailure, type OpenFolder } from './below';

/** Folders inside one another that are looked into; each is held open meanwhile. */
const MAX_DEPTH = 64;

export type Listed =
  | { readonly path: string; readonly size: number; readonly modified: number }
  | { readonly path: string; readonly code: FailureCode };

/**
 * Every plain file below a folder, without links, one at a time. What may not be read is told with the reason.
 * @param skip says of a path that it and what lies below it do not count
 */
export function* listBelow(
  folder: OpenFolder,
  skip: (path: string) => boolean,
  prefix = '',
  depth = 0,
): Generator<Listed> {
  const told = (path: string, error: unknown): Listed => ({ path, code: fileFailure(error, path).code });
  let entries;
  try {
    entries = folder.entries();
  } catch (error) {
    yield told(prefix, error);
    return;
  }
  for (const entry of entries) {
    const path = prefix === '' ? entry.name : `${prefix}/${entry.name}`;
    if (skip(path)) continue;
    try {
      if (entry.isFile()) {
        const is = folder.stat(entry.name);
        if (is.isFile()) yield { path, size: is.size, modified: Math.round(is.mtimeMs) };
      } else if (entry.isDirectory() && depth >= MAX_DEPTH) {
        yield { path, code: 'folder/too-deep' };
      } else if (entry.isDirectory()) {
        const below = folder.openFolder(entry.name);
        try {
          yield* listBelow(below, skip, path, depth + 1);
        } finally {
          below.close();
        }
      }
    } catch (error) {
      yield told(path, error);
    }
  }
}
