import type { BuildLabel } from '#core/builds';
import { type Install, updateInstall } from '~/store';

/** What was known of a folder's game when its person was here. */
export type Visit = NonNullable<Install['lastVisit']>;

/** After so long one no longer has in mind how one left things. */
const AWAY_MS = 7 * 86_400_000;

/**
 * Notes that a person looks at an install, and what builds they see.
 * @returns the visit that they come back from after a while, until {@link noteStandingSeen}; undefined for who was here
 *   just lately
 */
export async function noteVisit(install: string, builds: readonly BuildLabel[]): Promise<Visit | undefined> {
  const now = Date.now();
  const { backFrom } = await updateInstall(install, ({ lastVisit, ...rest }) => ({
    ...rest,
    ...(lastVisit && now - lastVisit.at > AWAY_MS && { backFrom: lastVisit }),
    lastVisit: { at: now, builds: [...builds] },
  }));
  return backFrom;
}

/** Notes that a person was told where things stand. */
export async function noteStandingSeen(install: string): Promise<void> {
  await updateInstall(install, ({ backFrom: _, ...now }) => now);
}
