import { forgetInstall } from '#core/contents';
import { INSTALL_DISK, installFolder, withPointer } from '~/folders';
import { text } from '~/places';
import { platformSha256 } from '~/remote';
import type { Install } from '~/store';

/** The reference to what is fetched for an install. */
export const fetchedFor = (install: string): string => `fetched-${install}`;

/** The reference to what mods cover in what a change set has laid down. */
export const coveredBy = (set: string): string => `covered-${set}`;

/**
 * Removes from the browser disk what is kept for an install alone: fetched, or covered by its mods.
 * @param withKeepsakes also what its keepsakes hold
 * @throws Failure `folder/*`, `changes/damaged`
 */
export async function forgetContents({ id, tree }: Install, withKeepsakes: boolean): Promise<void> {
  const disk = withPointer(installFolder(INSTALL_DISK(id)), tree);
  const { signal } = new AbortController();
  const ports = { disk, sha256: platformSha256, ...text, signal, progress: () => undefined };
  await forgetInstall(id, withKeepsakes, ports);
}
