import { z } from 'zod';
import { Failure } from '#core/failure';
import { type FetchItem, fetchTotals } from '#core/fetch';
import { changesOf } from '~/changes';
import { fetchedPath, treePath } from '~/folders';
import { query } from '~/queries';
import { tokenFor } from '~/remote';
import { getInstall, getSession, TargetSchema } from '~/store';
import { type Kind, readParams } from '../job-context';
import { pieceBoard } from '../piece-board';
import { inLanes } from './batches';

const ParamsSchema = z.object({ target: TargetSchema, thenLayDown: z.boolean().default(false) });

/** Files at once: while one waits for the service, another is checked. */
const LANES = 6;

/**
 * Fetches what the target needs and the disk does not have. Each content is put aside under its digest once all of its
 * pieces are right; what was put aside before, or arrived in part, is not fetched again.
 */
export const fetchJob: Kind = {
  async run(context) {
    const { target, thenLayDown } = readParams(context, ParamsSchema);
    context.phase('Working out what to fetch', 0, 0);
    await query('learn', context.install);
    const [view, install, session] = await Promise.all([
      query('fetchView', context.install, target),
      getInstall(context.install),
      getSession(),
    ]);
    if (!view) throw new Failure('job/not-checked-out', { what: 'target or survey' });
    const byContent = new Map<string, FetchItem>();
    for (const item of view.items) if (item.source.how === 'fetch') byContent.set(item.sha256, item);
    const items = [...byContent.values()];
    if (!session && items.some(({ owner }) => owner.kind === 'depot')) throw new Failure('service/sign-in-needed');
    // What is counted is what comes: pieces that are reused from the disk are no part of it.
    const { toFetch } = fetchTotals(items);
    context.phase(`Fetching ${view.build}`, items.length, toFetch);
    const where = changesOf(install).arrivals;
    pieceBoard.clear();
    // Large files first: at the end only small ones are under way, and no lane waits long for the others.
    const largestFirst = items.toSorted((a, b) => b.size - a.size);
    await inLanes(largestFirst, LANES, context, async (item) => {
      if (item.source.how !== 'fetch') return;
      const sources = item.source.pieces.map(
        (piece) => piece && { ...piece, path: treePath(install.tree, piece.path) },
      );
      await context.pool.run(
        {
          do: 'fetch',
          place: where,
          to: fetchedPath(item.sha256),
          href: item.href,
          size: item.size,
          key: item.key,
          token: tokenFor(item.href, session?.token),
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
    if (thenLayDown) context.then('assemble', { target });
  },
};
