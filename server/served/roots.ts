import { realpath } from 'node:fs/promises';
import { delimiter, join, sep } from 'node:path';
import { Failure } from '#core/failure';

/** The folders that may be served, from `REGRESSUM_ROOTS`, their real paths. A root that is not there is none. */
export async function rootsFrom(setting: string | undefined): Promise<string[]> {
  const named = (setting ?? '').split(delimiter).filter((path) => path !== '');
  const real = await Promise.all(named.map((path) => realpath(path).catch(() => undefined)));
  return real.filter((path) => path !== undefined);
}

/**
 * The place of a path below a root, where no part of it is a link.
 * @param path `/` between its parts; empty for the root itself
 * @throws Failure `served/outside` for any other root, for `..`, for a link; `folder/not-found`
 */
export async function placeBelow(roots: readonly string[], root: string, path: string): Promise<string> {
  const outside = new Failure('served/outside', { path });
  if (!roots.includes(root)) throw outside;
  const parts = path === '' ? [] : path.split('/');
  const bad = (part: string): boolean => part === '' || part === '.' || part === '..' || /[\0\\]/.test(part);
  if (parts.some(bad)) throw outside;
  const place = join(root, ...parts);
  const real = await realpath(place).catch((cause: unknown) => {
    throw new Failure('folder/not-found', { path }, { cause });
  });
  // A link on the way shows in the real path being another one, wherever it leads.
  if (real !== place || (real !== root && !real.startsWith(root + sep))) throw outside;
  return place;
}
