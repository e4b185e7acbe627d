import type { BuildLabel, ModId } from '#core/builds';
import type { Benched, StepWish, Until } from '#core/mend';
import type { Weight } from '#core/mods';
import { jobs } from '~/jobs';
import { type MendedView, type MendView, query, type ShelvedFrom } from '~/queries';
import { askSourcesAgain } from './games';
import { lookAhead, turnChanges } from './turning';
import { broadcast, getCatalogue, type Install, updateInstall } from '~/store';

/** The list with one mod's entry changed; undefined takes it out. Its place stays. */
function withEntry<T>(
  entries: readonly (readonly [ModId, T])[],
  mod: ModId,
  value: T | undefined,
): (readonly [ModId, T])[] {
  if (value === undefined) return entries.filter(([id]) => id !== mod);
  const known = entries.some(([id]) => id === mod);
  return known ? entries.map((entry) => (entry[0] === mod ? [mod, value] : entry)) : [...entries, [mod, value]];
}

// Changed from what the store has at that moment: two changes in a row, or another tab's, are both kept.
async function decide(install: string, change: (now: Install) => Partial<Install>): Promise<void> {
  await updateInstall(install, (now) => ({ ...now, ...change(now) }));
  broadcast({ type: 'changed' });
}

/** Weighs a mod; undefined has it no longer be wanted. */
export const weighMod = (install: string, mod: ModId, weight: Weight | undefined): Promise<void> =>
  decide(install, ({ weights }) => ({ weights: withEntry(weights, mod, weight) }));

/** Has a mod run at just this release or not at all; undefined leaves the release to the program again. */
export const pinMod = (install: string, mod: ModId, release: string | undefined): Promise<void> =>
  decide(install, ({ pins = [], insisted = [] }) => ({
    pins: withEntry(pins, mod, release),
    insisted: withEntry(insisted, mod, undefined),
  }));

/** Has a mod be there at this release, whatever speaks against it; undefined leaves the release to the program again. */
export const insistOn = (install: string, mod: ModId, release: string | undefined): Promise<void> =>
  decide(install, ({ pins = [], insisted = [] }) => ({
    pins: withEntry(pins, mod, undefined),
    insisted: withEntry(insisted, mod, release),
  }));

/**
 * Has a folder lie as some steps leave it: what is missing is fetched, and only what differs is laid down. Mods that come back by
 * it are on the bench no longer.
 */
export async function takeSteps(install: string, build: BuildLabel, steps: readonly StepWish[]): Promise<void> {
  const { target, returns, paths } = await query('stepTarget', install, build, steps);
  await decide(install, ({ bench = [] }) => ({ target, bench: bench.filter(({ mod }) => !returns.includes(mod)) }));
  const only = paths && { only: paths };
  await jobs.start('fetch', install, { target, thenLayDown: true, way: 'in-place', ...only });
}

/** Undoes a lay-down that changed mods: as it was, to the byte, where nothing came after it; else its mods go back by themselves. */
export async function undoSteps(
  install: string,
  build: BuildLabel,
  { id, moves, canGoBack }: MendedView,
): Promise<void> {
  if (!canGoBack) {
    const back = moves.map(({ mod, from }): StepWish => ({ mod, to: from ?? null }));
    return takeSteps(install, build, back.toReversed());
  }
  // Of a change that is undone by itself what others have changed since stays.
  const ahead = await lookAhead(install, [id], 'back');
  await jobs.ended(await turnChanges(install, ahead, new Set(ahead.met.map(({ path }) => path))));
  const { target } = await query('stepTarget', install, build, []);
  await decide(install, () => ({ target }));
}

/** Fetches what the whole set at a build needs, and lays it down. */
export async function layDownAll(
  install: string,
  { from, to, releases, order }: Pick<MendView, 'from' | 'to' | 'releases' | 'order'>,
): Promise<void> {
  const target = {
    ...({ build: to, releases: [...releases], order, decidedBy: 'mend', at: Date.now() } as const),
    ...(from !== to && { from }),
  };
  await decide(install, () => ({ target }));
  await jobs.start('fetch', install, { target, thenLayDown: true });
}

/**
 * Asks all sources of a game for what is new.
 * @returns releases that were not known before
 * @throws Failure as the sources do
 */
export async function lookForReleases(
  game: string,
): Promise<readonly { readonly name: string; readonly version: string }[]> {
  const before = new Set(
    (await getCatalogue(game)).mods.flatMap(({ id, releases }) => releases.map((one) => releaseKey(id, one))),
  );
  await askSourcesAgain(game);
  const { mods } = await getCatalogue(game);
  return mods.flatMap(({ id, name, releases }) =>
    releases.flatMap((one) => (before.has(releaseKey(id, one)) ? [] : [{ name, version: one.version }])),
  );
}

const releaseKey = (mod: ModId, { version }: { readonly version: string }): string => JSON.stringify([mod, version]);

/** Why mods are taken out, and until when or what. */
export interface BenchWish {
  readonly reason: string;
  readonly until: Until | undefined;
}

/**
 * Puts the releases of mods that lie in the folder on the shelf, where they are not: nobody can withdraw them then.
 * @returns the releases
 * @throws Failure as the shelving does
 */
async function shelveUsed(install: string, mods: readonly ModId[]): Promise<readonly ShelvedFrom[]> {
  const used = await query('shelvable', install, mods);
  const releases = used.filter(({ keys }) => keys.length > 0);
  if (releases.length > 0) await jobs.ended(await jobs.start('shelve', install, { archives: [], releases, add: [] }));
  return used;
}

/**
 * Notes that mods are to be out of the folder for a while. What lies there of them is put on the shelf first, so that they come
 * back without a byte from the wire. Their settings stay where they are.
 * @throws Failure as the shelving does; nothing is noted then
 */
export async function benchMods(install: string, mods: readonly ModId[], wish: BenchWish): Promise<void> {
  const used = await shelveUsed(install, mods);
  const at = Date.now();
  const inUse = new Map(used.map(({ mod, release }) => [mod, release]));
  const benched = mods.map((mod): Benched => {
    const release = inUse.get(mod);
    const { reason, until } = wish;
    return { mod, reason, at, ...(release !== undefined && { release }), ...(until && { until }) };
  });
  await decide(install, ({ bench = [] }) => ({
    bench: [...bench.filter(({ mod }) => !mods.includes(mod)), ...benched],
  }));
}

/** Takes mods from the bench: they are proposed as all others are. Nothing changes in the folder by that. */
export const offBench = (install: string, mods: readonly ModId[]): Promise<void> =>
  decide(install, ({ bench = [] }) => ({ bench: bench.filter(({ mod }) => !mods.includes(mod)) }));

/** Takes a mod out of the folder for a while, where that can be done now; else it is out from the next lay-down on. */
export async function takeOut(
  install: string,
  { build, mod, isThere }: { readonly build: BuildLabel; readonly mod: ModId; readonly isThere: boolean },
  wish: BenchWish,
): Promise<void> {
  await benchMods(install, [mod], wish);
  if (isThere) await takeSteps(install, build, [{ mod, to: null }]);
}
