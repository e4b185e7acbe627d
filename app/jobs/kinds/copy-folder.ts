import { z } from 'zod';
import { ownKind } from '#core/builds';
import type { ContentKey } from '#core/digest';
import { Failure, failureFromWire, isFailure } from '#core/failure';
import { asPublished } from '#core/survey';
import { type Changes, changeSet, changesOf, inPlaceSteps, keeping, layDownSteps, madeTree } from '~/changes';
import { besidePath, treePath } from '~/folders';
import { contentsBeside, keeperOf, layDownWays, type Source, sourceOf, toldTimesOf } from '~/places';
import { type PlanView, query } from '~/queries';
import { platformSha256 } from '~/remote';
import { dropReadings, getGame, getInstall, getSurvey, type Install, updateInstall } from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { hashSource } from './hash-tree';
import { besideKept, KEPT, sumOf } from './kept-contents';
import { noteChange } from './note-change';
import { takeBackChange } from './take-back-change';

const ParamsSchema = z.object({
  /** The install whose folder is copied. */
  from: z.string(),
  /** Whether saves, settings and own content come along. */
  withOwn: z.boolean(),
  /** Whether the files of the first are deleted once all of them are here. */
  moves: z.boolean(),
});
type Params = z.output<typeof ParamsSchema>;

/** What the disk calls the folder that is copied. */
const COPIED = 'copied';

/** The disk of the copy, with the folder that is copied beside it. */
const besideCopied = (install: Install, source: Source): Changes => changesOf(install, { [COPIED]: source.placeOf() });

const inCopied = ({ root }: Source, path: string): string =>
  besidePath(COPIED, [root, path].filter((part) => part !== '').join('/'));

/**
 * Reads what is to be copied, byte for byte: what was read before counts by size and time.
 * @throws Failure of the first file that cannot be read: a copy without it would be none
 */
async function filesOf(
  context: JobContext,
  original: Install,
  source: Source,
): Promise<readonly (readonly [path: string, size: number, key: ContentKey])[]> {
  const survey = await getSurvey(original);
  const read = await hashSource(context, source, {
    ...{ phase: 'Reading what is copied', earlier: survey ? [survey] : [], told: toldTimesOf(original) },
    pieceSizeOf: asPublished(await query('pieceSizes', original.id)),
    assertThere: async () => void (await (await sourceOf(original, original.tree)).reader.list(source.root)),
  });
  const [refused] = read.unreadable;
  if (refused) throw failureFromWire(refused.failure);
  return read.paths.map((path, i) => [path, read.sizes[i]!, read.keys[i]!]);
}

async function plan(context: JobContext, { from, withOwn }: Params): Promise<void> {
  const [install, original] = await Promise.all([getInstall(context.install), getInstall(from)]);
  const source = await sourceOf(original, original.tree);
  const changes = besideCopied(install, source);
  const current = await changes.disk.current();
  if ((await changes.disk.list(treePath(current))).length > 0)
    throw new Failure('folder/not-empty', { path: install.folder });
  const { rules } = await getGame(original.game);
  const files = (await filesOf(context, original, source)).filter(
    ([path]) => withOwn || ownKind(rules, path) === undefined,
  );
  const rows = files.map(([path, size, key]): PlanView['rows'][number] => ({
    ...{ path, size, key, own: false },
    source: { how: 'stored', path: inCopied(source, path) },
  }));
  const copied = { rows, found: new Map<string, ContentKey>() };
  const isBeside = (await layDownWays(install.place)).includes('beside');
  const steps = isBeside
    ? await layDownSteps(copied, current, madeTree(context.id), [], [])
    : inPlaceSteps(context.id, copied, current);
  context.phase(
    `Copying ${original.title}`,
    files.length,
    files.reduce((sum, [, size]) => sum + size, 0),
  );
  await changes.run(context, context.id, 'on', changeSet(context.id, 'copy-folder', { from: original.title }, steps));
}

/**
 * What a keepsake is called where it comes along: who deletes it there must not delete what the first one holds in a store that
 * both share.
 */
async function nameOfCopy(install: string, keepsake: string): Promise<string> {
  return `copy-${(await platformSha256(JSON.stringify([install, keepsake]))).slice(0, 32)}`;
}

/**
 * Takes keepsakes over, with their contents where the two have not one store. One whose contents are not all there any more
 * stays behind.
 * @returns what each that was is called now
 */
async function bringKeepsakes(
  context: JobContext,
  install: Install,
  original: Install,
  wanted: Iterable<string>,
): Promise<Map<string, string>> {
  const [keeper, kept] = await Promise.all([keeperOf(original), contentsBeside(original)]);
  const changes = await keeping(install, kept && { [KEPT]: kept });
  const all = await Promise.all([...new Set(wanted)].map((id) => keeper.keepsake(id)));
  const keepsakes = new Map(all.flatMap((keepsake) => (keepsake ? [[keepsake.id, keepsake] as const] : [])));
  context.phase('Bringing keepsakes along', ...sumOf(keepsakes.values()));
  const brought = new Map<string, string>();
  for (const [id, keepsake] of keepsakes) {
    const copy = { ...keepsake, id: await nameOfCopy(install.id, id) };
    const from = kept ? await besideKept(keepsake) : [];
    try {
      await changes.carryOut(context, { act: 'keepsake', install: install.id, keepsake: copy, from });
      brought.set(id, copy.id);
    } catch (error) {
      if (!isFailure(error, 'folder/not-found') && !isFailure(error, 'folder/changed-meanwhile')) throw error;
      await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake: copy.id });
    }
  }
  return brought;
}

/** Takes over the keepsakes that profiles were left in, and with a move all others too. */
async function takeKeepsakes(context: JobContext, { from, moves }: Params): Promise<void> {
  const [install, original] = await Promise.all([getInstall(context.install), getInstall(from)]);
  const pools = original.pools ?? [];
  const all = moves ? (await (await keeperOf(original)).keepsakes()).keepsakes.map(({ id }) => id) : [];
  const brought = await bringKeepsakes(context, install, original, [...pools.map(([, id]) => id), ...all]);
  const kept = pools.flatMap(([pool, id]): [string, string][] => (brought.has(id) ? [[pool, brought.get(id)!]] : []));
  await updateInstall(install.id, (now) => ({ ...now, pools: kept }));
}

/**
 * Copies the folder of another install into this one's, which is empty, as one change set: each file is checked as it is read
 * and as it is written. Where the disk can clone, it does.
 */
export const copyFolder: Kind = {
  async run(context) {
    const params = readParams(context, ParamsSchema);
    const [install, original] = await Promise.all([getInstall(context.install), getInstall(params.from)]);
    const changes = besideCopied(install, await sourceOf(original, original.tree));
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else await plan(context, params);
    await noteChange(context.install, changes, context.id);
    await dropReadings(context.id);
    await takeKeepsakes(context, params);
    if (params.moves) context.then('delete-files', {}, params.from);
  },
  async undo(context) {
    await takeBackChange(context);
    await dropReadings(context.id);
  },
};
