import { inLanes } from '#core/calls';
import { z } from 'zod';
import { PLACES } from '#core/changes';
import { contentName, makeReference } from '#core/contents';
import { keyPieces, keyPieceSize } from '#core/digest';
import { Failure } from '#core/failure';
import { asPublished } from '#core/survey';
import { changesOf, fetchedFor } from '~/changes';
import { type PointedAt, type Source, sourceAt } from '~/places';
import { type BroughtFile, query } from '~/queries';
import { platformSha256, servedToken } from '~/remote';
import { type BroughtReport, dropReadings, getInstall, HandleSchema, type Install, TargetSchema } from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { nameFetched } from './fetch';
import { hashSource } from './hash-tree';

const ParamsSchema = z.object({
  target: TargetSchema,
  from: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('picked'), handle: HandleSchema }),
    z.object({ kind: z.literal('served'), root: z.string(), folder: z.string() }),
    z.object({ kind: z.literal('handed'), name: z.string() }),
  ]),
  /** Whether files are moved into the store, where both lie with the server; else they are copied. */
  move: z.boolean().default(false),
});

/** Files at once. */
const LANES = 4;

/**
 * Finds out which depots lie in a folder that came by other means, and takes of them what the target wants into the store.
 * Its outcome is what the folder has.
 */
export const bringDepots: Kind = {
  async run(context) {
    const { target, from, move } = readParams(context, ParamsSchema);
    context.phase('Reading manifests', 0, 0);
    const { sizes, cuts } = await query('depotFiles', context.install);
    const known = new Set(sizes);
    const source = await sourceAt(from);
    await hashSource(context, source, {
      phase: 'Checking what has come',
      pieceSizeOf: asPublished(cuts),
      isWanted: (size) => known.has(size),
      assertThere: async () => void (await (await sourceAt(from)).reader.list()),
    });
    const { report, take } = await query('arrived', context.install, context.id, target);
    context.tell(report satisfies BroughtReport);
    const install = await getInstall(context.install);
    if (take.length > 0) await takeFiles(context, install, { target, from, source, take, move });
    await query('storeChanged');
    await dropReadings(context.id);
  },
  async undo(context) {
    await dropReadings(context.id);
    // What has come stays named for the build.
    const changes = changesOf(await getInstall(context.install));
    await changes.carryOut(uncounted(context), { act: 'drop', reference: context.id });
  },
};

interface Taking {
  readonly target: z.output<typeof TargetSchema>;
  readonly from: PointedAt;
  readonly source: Source;
  readonly take: readonly BroughtFile[];
  readonly move: boolean;
}

async function takeFiles(context: JobContext, install: Install, taking: Taking): Promise<void> {
  const { target, from, take, source, move } = taking;
  const view = await query('fetchView', install.id, target);
  if (!view) throw new Failure('job/not-checked-out', { what: 'target or survey' });
  const keys = new Set(take.map(({ key }) => key));
  const wanted = { id: fetchedFor(install.id), build: target.build, items: view.items };
  await nameFetched(context, install, wanted, ({ key }) => keys.has(key));
  context.phase(
    move ? 'Moving into the store' : 'Copying into the store',
    take.length,
    take.reduce((sum, { size }) => sum + size, 0),
  );
  if (from.kind === 'served' && install.place.kind === 'served') {
    await keepThere(context, install, taking, { root: from.root, folder: from.folder });
    return;
  }
  const { arrivals } = changesOf(install);
  await inLanes(take, LANES, context, async ({ key, size, path }) => {
    const pieceSize = keyPieceSize(key);
    await context.pool.run(
      {
        ...{ do: 'fetch', place: arrivals, token: undefined, served: servedToken(), from: source.placeOf([path]) },
        files: [
          {
            ...{ name: await contentName(key, platformSha256), href: '', size, key },
            sources: keyPieces(key).map((_, i) => ({ path, start: i * pieceSize })),
          },
        ],
      },
      {
        signal: context.signal,
        progress: (progress) => {
          if (progress.kind === 'piece') context.add(0, progress.bytes);
        },
      },
    );
    context.add(1, 0);
  });
}

/** Where the server has both, nothing travels through the page. */
async function keepThere(
  context: JobContext,
  install: Install,
  { target, take, move }: Taking,
  brought: { readonly root: string; readonly folder: string },
): Promise<void> {
  const changes = changesOf(install, { brought: { kind: 'served', ...brought, token: servedToken() } });
  // Only to be gathered by: what has come is named for the build already.
  const named = { id: context.id, at: Date.now() };
  const reason = { kind: 'fetched', install: install.id, build: target.build } as const;
  const keys = take.map(({ key }) => key);
  const reference = await makeReference({ ...named, reason }, keys, { sha256: platformSha256 });
  const from = take.map(({ key, path }) => [key, `${PLACES.beside}/brought/${path}`] as [typeof key, string]);
  await changes.carryOut(context, { act: 'keep', reference, from, how: move ? 'move' : 'copy' });
  await changes.carryOut(uncounted(context), { act: 'drop', reference: context.id });
}
