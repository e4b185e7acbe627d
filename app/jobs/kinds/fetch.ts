import { LAY_DOWN_WAYS } from '#core/assemble';
import { z } from 'zod';
import type { BuildLabel } from '#core/builds';
import { PLACES } from '#core/changes';
import { contentName, makeReference } from '#core/contents';
import { Failure, failureFromWire, isFailure } from '#core/failure';
import {
  type BroughtSoFar,
  type FetchItem,
  fetchTotals,
  framesFor,
  isPartOfFetch,
  isToCome,
  type HaulFile,
  type HaulFrame,
  haulFrames,
  haulsOf,
  isNowhere,
  NOTHING_BROUGHT,
  type PlannedFrame,
  type Source,
  Width,
} from '#core/fetch';
import { isBelow } from '#core/paths';
import { changesOf, fetchedFor } from '~/changes';
import { besidePath, type BesidePlaces, treePath } from '~/folders';
import { freeBytes, type OtherFolder, otherFolders } from '~/places';
import { query } from '~/queries';
import { asksSignIn, platformSha256, servedToken, tokenFor } from '~/remote';
import { getInstall, getSession, type Install, putSession, rateLimit, TargetSchema } from '~/store';
import type { DiskProgress } from '~/workers';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { pieceBoard } from '../piece-board';
import { FetchTally } from './fetch-tally';
import { inRounds } from './in-rounds';

const ParamsSchema = z.object({
  target: TargetSchema,
  thenLayDown: z.boolean().default(false),
  /** How it is laid down then; as it usually is, where that is left out. */
  way: z.enum(LAY_DOWN_WAYS).exactOptional(),
  /** What is fetched of it alone: a depot, or what lies at a path or below it. */
  part: z.object({ depot: z.string().optional(), below: z.string().optional() }).optional(),
  /** Only files at these paths are fetched and laid down. */
  only: z.array(z.string()).readonly().exactOptional(),
});

const isContent = (source: Source): boolean => source.how === 'stored' && isBelow(source.path, PLACES.contents);

/** Hauls at once where the rate is limited, each with an equal part of it. */
const LIMITED_LANES = 3;
/** Hauls in a row of which nothing comes, after which the source is taken to be gone. */
const GONE_AFTER = 12;

/** How often a fetch tells how it goes. */
const TELL_MS = 250;

/** Files that did not come that a report names. */
const MOST_NAMED = 100;

/** What is wanted of a build, and by which reference it is kept once it has come. */
interface Wanted {
  readonly id: string;
  readonly build: BuildLabel;
  readonly items: readonly FetchItem[];
  /** Frames of bundles that were planned for it; they are planned where they are left out. */
  readonly frames?: readonly PlannedFrame[];
}

/** Names contents for a build before they come, so that nobody takes them for what nothing refers to. */
export async function nameFetched(
  context: JobContext,
  install: Install,
  { id, build, items }: Wanted,
  isComing: (item: FetchItem) => boolean,
): Promise<void> {
  const reason = { kind: 'fetched', install: install.id, build } as const;
  const keys = items.flatMap((item) => (isComing(item) || isContent(item.source) ? [item.key] : []));
  const reference = await makeReference({ id, at: Date.now(), reason }, keys, { sha256: platformSha256 });
  await changesOf(install).carryOut(uncounted(context), { act: 'refer', reference });
}

/** Where the folders lie that pieces come from, or that frames build on, as a worker reaches them. */
function besidePlaces(
  others: readonly OtherFolder[],
  files: readonly HaulFile[],
  frames: readonly HaulFrame[],
): BesidePlaces {
  const prefixes = frames.flatMap(({ prefix }) => prefix.flatMap((part) => ('path' in part ? [part.path] : [])));
  const used = (name: string): boolean =>
    files.some(({ sources }) => sources.some((source) => source?.beside === name)) ||
    prefixes.some((path) => isBelow(path, besidePath(name)));
  return Object.fromEntries(others.flatMap(({ name, source }) => (used(name) ? [[name, source.placeOf()]] : [])));
}

/** Refuses what cannot fit before a byte of it is written. @throws Failure `folder/full` */
export async function assertRoom(install: Install, needs: number): Promise<void> {
  const free = await freeBytes(install);
  if (free !== undefined && needs > free) throw new Failure('folder/full', { path: install.folder, needs, free });
}

/** The reference to what a job has fetched for itself. */
export const fetchedBy = (job: string): string => `fetched-${job}`;

/**
 * Fetches contents into the store. Each is put there once all of its pieces are right; what came before, or arrived in
 * part, is not fetched again.
 * @param wanted `items` is whatever is wanted, of which only what lies nowhere is fetched; `id` of the reference that it is
 *   kept by from then on
 * @param isPart what of it is fetched now
 * @throws Failure `service/*`, `folder/*`; `fetch/incomplete` where some did not come and everything else did
 */
export async function fetchContents(
  context: JobContext,
  install: Install,
  { id, build, items, frames: planned }: Wanted,
  isPart: (item: FetchItem) => boolean = () => true,
): Promise<void> {
  const session = await getSession(install.game);
  const byContent = new Map<string, FetchItem>();
  for (const item of items)
    if (item.source.how === 'fetch' && !isNowhere(item) && isPart(item)) byContent.set(item.sha256, item);
  const missing = [...byContent.values()];
  const { frames } = planned ? { frames: planned } : await query('planFetch', install.id, build, missing);
  if (!session && missing.some(({ href }) => asksSignIn(href))) throw new Failure('service/sign-in-needed');
  const { toFetch, written } = fetchTotals(missing);
  await assertRoom(install, written);
  // What is counted is what comes: pieces that are reused from the disk are no part of it.
  context.phase(`Fetching ${build}`, missing.length, toFetch);
  context.add(0, 0, 0);
  const changes = changesOf(install);
  await nameFetched(context, install, { id, build, items }, (item) => byContent.has(item.sha256));
  pieceBoard.clear(install.id);
  const names = new Map(
    await Promise.all(missing.map(async ({ key }) => [key, await contentName(key, platformSha256)] as const)),
  );
  const haulFile = ({ key, size, href, mirrors, source }: FetchItem): HaulFile => ({
    ...{ name: names.get(key)!, href, size, key },
    // One that wants a sign-in is asked only as the first: its token goes to nobody else.
    mirrors: mirrors?.filter((mirror) => !asksSignIn(mirror)),
    inWhole: source.how === 'fetch' && source.inWhole,
    sources: (source.how === 'fetch' ? source.pieces : []).map((piece) =>
      piece === 'arrived' || isToCome(piece)
        ? undefined
        : { ...piece, path: piece.beside === undefined ? treePath(install.tree, piece.path) : piece.path },
    ),
  });
  const tokenOf = ({ href }: { readonly href: string }): string | undefined => tokenFor(href, session?.token);
  const others = await otherFolders(install, platformSha256);
  const tally = new FetchTally({ build, items: missing }, context.left);
  const width = new Width();
  let toldAt = 0;
  const rounds = {
    lanes: () => (rateLimit() === undefined ? width.now : LIMITED_LANES),
    goneAfter: GONE_AFTER,
    // Whoever signed in somewhere shows that to nobody else.
    groupsOf: (some: readonly FetchItem[]) =>
      [...new Set(some.map(tokenOf))].flatMap((token) => {
        const own = some.filter((item) => tokenOf(item) === token);
        // What a frame builds on is asked for with it.
        const offered = frames.filter((frame) =>
          [frame, ...frame.prefix].every((one) => !('href' in one) || tokenOf(one) === token),
        );
        return haulsOf(own, framesFor(own, offered));
      }),
    pause: (round: number) => context.wait(500 * 2 ** round),
  };
  // Large files first: at the end only small ones are under way, and no lane waits long for the others.
  const largestFirst = missing.toSorted((a, b) => b.size - a.size);
  const limitedAtOnce = Math.min(LIMITED_LANES, rounds.groupsOf(largestFirst).length);
  const aside = await inRounds(largestFirst, rounds, context, async ({ files: group, frames: some }) => {
    const limit = rateLimit();
    const [files, wantedFrames] = [group.map(haulFile), haulFrames(some, group)];
    const task = {
      ...({ do: 'fetch', place: changes.arrivals, files, frames: wantedFrames, from: undefined } as const),
      beside: besidePlaces(others, files, wantedFrames),
      ...{ token: tokenOf(group[0]!), served: servedToken() },
      bytesPerSecond: limit === undefined ? undefined : limit / limitedAtOnce,
    };
    let soFar = NOTHING_BROUGHT;
    /** @returns bytes that came over the wire since it was told last */
    const take = (now: BroughtSoFar): number => {
      tally.came(soFar, now);
      const wire = now.wireBytes - soFar.wireBytes;
      soFar = now;
      return wire;
    };
    const progress = (news: DiskProgress): void => {
      if (news.kind !== 'piece') return;
      const wire = take(news.soFar);
      const item = group[news.file]!;
      pieceBoard.set(install.id, item.sha256, news.index, news.state);
      const right = tally.piece(item, news);
      if (right.files + right.bytes + wire === 0) return;
      if (performance.now() - toldAt > TELL_MS) {
        context.tell(tally.report());
        toldAt = performance.now();
      }
      context.add(right.files, right.bytes, wire);
    };
    const { failed, wasBusy, ...came } = await context
      .pausing((signal) => {
        soFar = NOTHING_BROUGHT;
        return context.pool.run(task, { signal, progress });
      })
      .catch(async (error: unknown) => {
        context.tell(tally.report());
        // A sign-in that the service knows no longer is none: the person is asked for another one.
        if (isFailure(error, 'service/sign-in-needed')) await putSession(install.game, undefined);
        throw error;
      });
    context.add(0, 0, take(came));
    width.ended(wasBusy);
    return failed.map(({ file, failure }) => ({ item: group[file]!, failure: failureFromWire(failure) }));
  });
  await query('storeChanged');
  const [first] = aside;
  const lost = new Map(aside.map(({ item: { sha256 }, failure: { code } }) => [sha256, code]));
  const reported = items.flatMap(({ path, href, sha256, source }) => {
    const why = source.how === 'fetch' ? lost.get(sha256) : undefined;
    return why === undefined ? [] : [{ path, href, why }];
  });
  context.tell(tally.report(reported.slice(0, MOST_NAMED)));
  if (!first) return;
  const isGone = aside.every(({ failure }) => isFailure(failure, 'service/unreachable'));
  throw isGone
    ? first.failure
    : new Failure(
        'fetch/incomplete',
        { files: aside.length, path: first.item.path, why: first.failure.code },
        { cause: first.failure },
      );
}

/** Fetches what the target needs and the disk does not have. */
export const fetchJob: Kind = {
  async run(context) {
    const { target, thenLayDown, part, way, only } = readParams(context, ParamsSchema);
    context.phase('Working out what to fetch', 0, 0);
    await query('learn', context.install);
    // What cannot be learned of bundles comes as it is.
    await query('learnSources', context.install, target);
    const [view, install] = await Promise.all([
      query('fetchView', context.install, target),
      getInstall(context.install),
    ]);
    if (!view) throw new Failure('job/not-checked-out', { what: 'target or survey' });
    const paths = only && new Set(only);
    await fetchContents(context, install, { id: fetchedFor(install.id), ...view }, (item) =>
      isPartOfFetch(item, { ...part, paths }),
    );
    if (thenLayDown) context.then('assemble', { target, ...(way && { way }), ...(only && { only }) });
  },
};
