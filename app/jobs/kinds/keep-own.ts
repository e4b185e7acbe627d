import { z } from 'zod';
import { type ContentKey, keySize, PIECE_SIZE } from '#core/digest';
import { Failure, isFailure } from '#core/failure';
import { isSameOwn, type Keepsake, KEEPSAKE_VERSION, type OwnFile } from '#core/keepsakes';
import type { Reading } from '#core/survey';
import { keeping } from '~/changes';
import {
  listOwn,
  newestKeepsake,
  type OwnListed,
  type OwnPlace,
  ownPlaces,
  ownReadBefore,
  type Source,
} from '~/places';
import { query } from '~/queries';
import { getGame, getInstall, type Install } from '~/store';
import type { Listing } from '~/workers';
import type { JobContext } from '../job-context';
import { copyAfterwards } from './copy-keepsakes';
import { hashSource } from './hash-tree';

/* Reads the player's own files, and keeps them before something could touch them. */

/** The player's files as they are now, wherever they lie. */
export interface OwnNow {
  readonly files: readonly OwnFile[];
  /** Where each content lies on the disk that keeps it. */
  readonly onDisk: ReadonlyMap<ContentKey, string>;
  /** Names of files that cannot be read: of those that are being written nobody knows what they will be. */
  readonly unread: readonly string[];
  /** Places that cannot be reached. */
  readonly away: readonly string[];
}

const PHASE = 'Reading saves and settings';

function listingOf(files: readonly OwnListed[]): Listing {
  const sorted = files.toSorted((a, b) => (a.path < b.path ? -1 : 1));
  return {
    paths: sorted.map(({ path }) => path),
    sizes: Float64Array.from(sorted, ({ size }) => size),
    modified: Float64Array.from(sorted, ({ modified }) => modified),
    unreadable: [],
  };
}

/** Reads the files of a place, as they were listed. Digests count that were read before. @throws Failure `job/cancelled` */
export async function readPlace(
  context: JobContext,
  place: OwnPlace,
  { source, files }: { readonly source: Source; readonly files: readonly OwnListed[] },
  earlier: readonly Reading[],
): Promise<OwnNow> {
  const listed = new Map(files.map((file) => [file.path, file]));
  const read = await hashSource(context, source, {
    ...{ phase: PHASE, earlier, listed: listingOf(files) },
    pieceSizeOf: () => PIECE_SIZE,
    assertThere: async () => void (await place.open()),
  });
  const onDisk = new Map<ContentKey, string>();
  const own = read.paths.map((path, i): OwnFile => {
    const [key, modified] = [read.keys[i]!, read.modified[i]!];
    onDisk.set(key, place.onDisk(path));
    const time = Number.isNaN(modified) ? null : modified;
    const { kind, along } = listed.get(path)!;
    return { place: place.name, path, kind, key, modified: time, ...(along && { along }) };
  });
  return {
    files: own,
    onDisk,
    unread: read.unreadable.map(({ path }) => path),
    away: [],
  };
}

/**
 * Reads all files of the player's. Digests count that were read before, by size and time.
 * @param also files that are read besides, as far as they lie there
 * @throws Failure `job/cancelled`
 */
export async function readOwn(context: JobContext, install: Install, also: readonly OwnFile[] = []): Promise<OwnNow> {
  context.phase(PHASE, 0, 0);
  const { rules } = await getGame(install.game);
  const earlier = await ownReadBefore(install);
  const all: OwnNow[] = [];
  for (const place of await ownPlaces(install, rules)) {
    const listed = await listOwn(place, also);
    if ('failure' in listed) {
      all.push({ files: [], onDisk: new Map(), unread: [], away: [place.title] });
      continue;
    }
    all.push(await readPlace(context, place, listed, earlier(place.name)));
  }
  return {
    files: all.flatMap(({ files }) => files),
    onDisk: new Map(all.flatMap(({ onDisk }) => [...onDisk])),
    unread: all.flatMap(({ unread }) => unread),
    away: all.flatMap(({ away }) => away),
  };
}

/** Without what lies at a path of the disk, which another program writes. */
function withoutFile({ files, onDisk, unread, away }: OwnNow, at: string): OwnNow {
  const gone = new Set([...onDisk].flatMap(([key, path]) => (path === at ? [key] : [])));
  const isGone = ({ key }: OwnFile): boolean => gone.has(key);
  return {
    files: files.filter((file) => !isGone(file)),
    onDisk: new Map([...onDisk].filter(([key]) => !gone.has(key))),
    unread: [...unread, ...files.filter(isGone).map(({ path }) => path)],
    away,
  };
}

/** What a keepsake is made for. */
export type Why = Pick<Keepsake, 'why' | 'what'>;

/** Names of what could not be read that a keepsake tells of. */
export const MOST_UNREAD = 50;

/** @throws Failure `folder/changed-meanwhile` where a file was written while it was copied; `folder/*`, `job/cancelled` */
async function keepAsRead(context: JobContext, id: string, why: Why, now: OwnNow): Promise<Keepsake | undefined> {
  const { files, onDisk } = now;
  const unread = [...now.away, ...now.unread];
  if (files.length === 0) return undefined;
  const install = await getInstall(context.install);
  const keepsake: Keepsake = {
    ...{ version: KEEPSAKE_VERSION, id, at: Date.now(), ...why, ...(await query('standing', install.id)) },
    files: [...files],
    ...(unread.length > 0 && { unread: unread.slice(0, MOST_UNREAD) }),
  };
  const bytes = [...onDisk.keys()].reduce((sum, key) => sum + keySize(key), 0);
  context.phase('Keeping saves and settings', onDisk.size, bytes);
  const changes = await keeping(install);
  await changes.carryOut(context, { act: 'keepsake', install: install.id, keepsake, from: [...onDisk] });
  await copyAfterwards(context);
  return keepsake;
}

/** Seconds to wait before what is being written is read again: most games are done with a save by then. */
const WAITS = [1, 3];

interface Keeping {
  /** Makes none where the newest keepsake has just these files. */
  readonly unlessKept?: boolean;
  /** Files that are kept with them though no rule says that they are the player's, as far as they lie there. */
  readonly also?: readonly OwnFile[];
  /** Leaves out what is being written, or cannot be read, and names it; nothing is kept where that is not wanted. */
  readonly inPart: boolean;
}

/**
 * Keeps the player's files as they are now. What is written meanwhile, as a game does that runs, is waited for a little.
 * @returns the keepsake that has them; undefined where there is nothing to keep
 * @throws Failure `keepsake/partial` where some cannot be kept, `folder/*`, `job/cancelled`
 */
export async function keepOwn(
  context: JobContext,
  id: string,
  why: Why,
  { unlessKept = false, also = [], inPart }: Keeping,
): Promise<Keepsake | undefined> {
  const install = await getInstall(context.install);
  /** Files that were written while they were copied. */
  const written = new Set<string>();
  for (let tries = 0; ; tries++) {
    const read = await readOwn(context, install, also);
    const isLast = tries >= WAITS.length;
    const now = isLast ? [...written].reduce(withoutFile, read) : read;
    const [first] = now.unread;
    if (first !== undefined && !isLast) {
      await context.wait(WAITS[tries]! * 1000);
      continue;
    }
    if (first !== undefined && !inPart)
      throw new Failure('keepsake/partial', { path: first, files: now.unread.length });
    const latest = unlessKept && first === undefined ? await newestKeepsake(install) : undefined;
    if (latest && isSameOwn(latest.files, now.files)) return latest;
    try {
      return await keepAsRead(context, id, why, now);
    } catch (error) {
      if (!isFailure(error, 'folder/changed-meanwhile') || written.has(error.facts.path)) throw error;
      written.add(error.facts.path);
      if (!isLast) await context.wait(WAITS[tries]! * 1000);
    }
  }
}

/** The keepsake that a job makes before one of its change sets. */
const keptBefore = (job: string, number: number): string => `${job}-own${number === 0 ? '' : `-${number}`}`;

/** Keeps the player's files before a change set that could touch them, unless the newest keepsake has them as they are. */
export const keepOwnBefore = (
  context: JobContext,
  what: string,
  { also = [], number = 0 }: { readonly also?: readonly OwnFile[]; readonly number?: number } = {},
): Promise<Keepsake | undefined> =>
  keepOwn(
    context,
    keptBefore(context.id, number),
    { why: 'change', what },
    { also, unlessKept: true, inPart: goesOnInPart(context) },
  );

/** Whether the person has said that a job is to go on though some of their files cannot be kept before. */
const goesOnInPart = ({ params }: JobContext): boolean =>
  z.looseObject({ inPart: z.literal(true) }).safeParse(params).success;
