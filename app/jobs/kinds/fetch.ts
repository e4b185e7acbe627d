import { z } from 'zod';
import { PLACES } from '#core/changes';
import { contentName, makeReference } from '#core/contents';
import { Failure, isFailure } from '#core/failure';
import { type FetchItem, fetchTotals, isNowhere, type Source } from '#core/fetch';
import { isBelow } from '#core/paths';
import { changesOf, fetchedFor } from '~/changes';
import { treePath } from '~/folders';
import { query } from '~/queries';
import { asksSignIn, platformSha256, servedToken, tokenFor } from '~/remote';
import { type FetchReport, getInstall, getSession, type Install, TargetSchema } from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { pieceBoard } from '../piece-board';
import { inRounds } from './in-rounds';

const ParamsSchema = z.object({ target: TargetSchema, thenLayDown: z.boolean().default(false) });

const isContent = (source: Source): boolean => source.how === 'stored' && isBelow(source.path, PLACES.contents);

/** Files at once: while one waits for the service, another is checked. */
const LANES = 6;

/** Files that did not come that a report names. */
const MOST_NAMED = 100;

/** What is wanted of a build, and by which reference it is kept once it has come. */
interface Wanted {
  readonly id: string;
  readonly build: string;
  readonly items: readonly FetchItem[];
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

/**
 * Fetches contents into the store. Each is put there once all of its pieces are right; what came before, or arrived in
 * part, is not fetched again.
 * @param wanted `items` is whatever is wanted, of which only what lies nowhere is fetched; `id` of the reference that it is
 *   kept by from then on
 * @throws Failure `service/*`, `folder/*`; `fetch/incomplete` where some did not come and everything else did
 */
export async function fetchContents(
  context: JobContext,
  install: Install,
  { id, build, items }: Wanted,
): Promise<void> {
  const session = await getSession(install.game);
  const byContent = new Map<string, FetchItem>();
  for (const item of items) if (item.source.how === 'fetch' && !isNowhere(item)) byContent.set(item.sha256, item);
  const missing = [...byContent.values()];
  if (!session && missing.some(({ href }) => asksSignIn(href))) throw new Failure('service/sign-in-needed');
  // What is counted is what comes: pieces that are reused from the disk are no part of it.
  context.phase(`Fetching ${build}`, missing.length, fetchTotals(missing).toFetch);
  const changes = changesOf(install);
  await nameFetched(context, install, { id, build, items }, (item) => byContent.has(item.sha256));
  pieceBoard.clear();
  // Large files first: at the end only small ones are under way, and no lane waits long for the others.
  const largestFirst = missing.toSorted((a, b) => b.size - a.size);
  const rounds = { lanes: LANES, pause: (round: number) => context.wait(500 * 2 ** round) };
  const aside = await inRounds(largestFirst, rounds, context, async (item) => {
    if (item.source.how !== 'fetch') return;
    const sources = item.source.pieces.map((piece) => piece && { ...piece, path: treePath(install.tree, piece.path) });
    await context.pool.run(
      {
        do: 'fetch',
        place: changes.arrivals,
        name: await contentName(item.key, platformSha256),
        href: item.href,
        size: item.size,
        key: item.key,
        token: tokenFor(item.href, session?.token),
        served: servedToken(),
        from: undefined,
        sources,
      },
      {
        signal: context.signal,
        progress: (progress) => {
          if (progress.kind !== 'piece') return;
          pieceBoard.set(item.sha256, progress.index, progress.state);
          if (progress.state === 'checked') context.add(0, progress.bytes);
        },
      },
    );
    context.add(1, 0);
  });
  await query('storeChanged');
  const [first] = aside;
  if (!first) return;
  const reported = aside.map(({ item: { path, href }, failure: { code } }) => ({ path, href, why: code }));
  context.tell({ missing: reported.slice(0, MOST_NAMED) } satisfies FetchReport);
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
    const { target, thenLayDown } = readParams(context, ParamsSchema);
    context.phase('Working out what to fetch', 0, 0);
    await query('learn', context.install);
    const [view, install] = await Promise.all([
      query('fetchView', context.install, target),
      getInstall(context.install),
    ]);
    if (!view) throw new Failure('job/not-checked-out', { what: 'target or survey' });
    await fetchContents(context, install, { id: fetchedFor(install.id), ...view });
    if (thenLayDown) context.then('assemble', { target });
  },
};
