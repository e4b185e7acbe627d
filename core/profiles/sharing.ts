import { z } from 'zod';
import { OWN_KINDS, type OwnKind } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { IN_GAME, isPutBack, type Keepsake, type OwnFile, ownName, putBack } from '#core/keepsakes';

/*
 * Saves, settings and own content of profiles. Those that share a kind have its files together; one that has a kind for
 * itself finds its files again when it is switched to. What is not in place lies in keepsakes: each pool of files says which
 * one it was left in.
 */

const WhoseSchema = z.enum(['shared', 'own']);

export const SharingSchema = z.object({
  ...{ saves: WhoseSchema, settings: WhoseSchema, content: WhoseSchema },
  /** Profiles of the versions before knew of none. */
  presets: WhoseSchema.default('shared'),
});
export type Sharing = z.infer<typeof SharingSchema>;

export const ALL_SHARED: Sharing = { saves: 'shared', settings: 'shared', content: 'shared', presets: 'shared' };

/** What of a profile decides where its files of the player's are. */
export interface SharingProfile {
  readonly id: string;
  readonly sharing: Sharing;
  /** Begins without files of the kinds that it has for itself; else with those that lie there then. */
  readonly startsEmpty?: boolean | undefined;
}

/** The name of the files of a kind that a profile uses, among all of an install. */
export const poolOf = ({ id, sharing }: SharingProfile, kind: OwnKind): string =>
  `${sharing[kind] === 'own' ? id : 'shared'}/${kind}`;

/** The name of a profile's files in the folder that are of no release: mods that nobody knows, and what mods have written. */
export const alongPool = ({ id }: Pick<SharingProfile, 'id'>): string => `${id}/along`;

/** The keepsake that each pool was left in, by the pool's name. */
export type Pools = ReadonlyMap<string, string>;

/** All pools that a profile uses. */
export const poolsOf = (profile: SharingProfile): string[] => [
  ...OWN_KINDS.map((kind) => poolOf(profile, kind)),
  alongPool(profile),
];

/** The pools after a profile was left with a keepsake of all that it used. */
export const leavePools = (pools: Pools, from: SharingProfile, keepsake: string): Map<string, string> =>
  new Map([...pools, ...poolsOf(from).map((pool) => [pool, keepsake] as const)]);

/** Pools that are a profile's alone. */
export const ownPools = (profile: SharingProfile): string[] => [
  ...OWN_KINDS.filter((kind) => profile.sharing[kind] === 'own').map((kind) => poolOf(profile, kind)),
  alongPool(profile),
];

/** A file that is put in place, over what lies there now; null where nothing does. */
export interface PutInPlace extends OwnFile {
  readonly now: ContentKey | null;
}

/** What of the player's files changes when a profile takes the place of another one. */
export interface OwnSwitch {
  readonly put: readonly PutInPlace[];
  readonly take: readonly OwnFile[];
}

/**
 * Says which files of the player's go and come with a switch. A pool that was never left before begins with what lies
 * there, or empty, as its profile says.
 * @param now files of the player's, with those of the folder that are of no release
 * @param along of these the latter, by their names
 * @param keptIn a keepsake; undefined where it is gone: then that pool stays as it is. What it says itself that it lacks stays too
 */
export function switchOwn(
  { from, to, pools }: { readonly from: SharingProfile; readonly to: SharingProfile; readonly pools: Pools },
  now: readonly OwnFile[],
  along: ReadonlySet<string>,
  keptIn: (keepsake: string) => Pick<Keepsake, 'files' | 'unread'> | undefined,
): OwnSwitch {
  const put: PutInPlace[] = [];
  const take: OwnFile[] = [];
  const change = (kept: readonly OwnFile[], there: readonly OwnFile[], unread: readonly string[] = []): void => {
    const { rows, since } = putBack(kept, there);
    put.push(...rows.filter(isPutBack).map(({ does: _, ...row }) => row));
    take.push(...since.filter(({ path }) => !unread.includes(path)));
  };
  const ofKind = (files: readonly OwnFile[], kind: OwnKind): OwnFile[] =>
    files.filter((file) => file.kind === kind && !isAlong(file));
  const isAlong = (file: OwnFile): boolean => along.has(ownName(file));
  for (const kind of OWN_KINDS) {
    if (poolOf(from, kind) === poolOf(to, kind)) continue;
    const keepsake = pools.get(poolOf(to, kind));
    const kept = keepsake === undefined ? undefined : keptIn(keepsake);
    if (kept) change(ofKind(kept.files, kind), ofKind(now, kind), kept.unread);
    else if (keepsake === undefined && to.startsEmpty && to.sharing[kind] === 'own') take.push(...ofKind(now, kind));
  }
  const keepsake = pools.get(alongPool(to));
  const kept = keepsake === undefined ? undefined : keptIn(keepsake);
  if (kept) {
    const isOfNoRule = (file: OwnFile): boolean => file.place === IN_GAME && file.along === true;
    change(kept.files.filter(isOfNoRule), now.filter(isAlong), kept.unread);
  }
  return { put, take };
}
