import { z } from 'zod';
import { BuildLabelSchema } from '#core/builds';
import { makeReference } from '#core/contents';
import { Failure } from '#core/failure';
import { isNowhere } from '#core/fetch';
import { changesOf } from '~/changes';
import { type KeepPlan, query } from '~/queries';
import { platformSha256 } from '~/remote';
import { getInstall } from '~/store';
import { type JobContext, type Kind, readParams, uncounted } from '../job-context';
import { assertRoom, fetchContents } from './fetch';

const ParamsSchema = z.object({
  build: BuildLabelSchema,
  /** Whether it is kept already, and only completed: then cancelling gives nothing up. */
  isKept: z.boolean().default(false),
});

/** The reference by which a build is kept: one for all installs of a game. */
async function referenceTo(game: string, build: string): Promise<string> {
  return `build-${(await platformSha256(JSON.stringify([game, build]))).slice(0, 16)}`;
}

/** The reference of what is fetched for a build until it is kept. */
const comingFor = (kept: string): string => `${kept}-coming`;

/** Has what of a build lies nowhere fetched. @throws Failure `folder/not-found` where it is to be had nowhere; as the fetch */
async function fetchMissing(context: JobContext, { game, build, missing }: KeepPlan): Promise<void> {
  const nowhere = missing.filter(isNowhere);
  if (nowhere.length > 0) throw new Failure('folder/not-found', { path: nowhere[0]!.path, missing: nowhere.length });
  const id = comingFor(await referenceTo(game, build));
  await fetchContents(context, await getInstall(context.install), { id, build, items: missing });
}

/** Keeps a build whole in the store, each content once: what of it lies on the disk is copied there, what does not is fetched. */
export const keepBuild: Kind = {
  async run(context) {
    const { build } = readParams(context, ParamsSchema);
    const before = await query('keepPlan', context.install, build);
    await assertRoom(await getInstall(context.install), before.added);
    if (before.missing.length > 0) await fetchMissing(context, before);
    const { game, sources, bytes } = await query('keepPlan', context.install, build);
    context.phase(`Keeping ${build}`, sources.size, bytes);
    const id = await referenceTo(game, build);
    const reason = { kind: 'build', game, build } as const;
    const reference = await makeReference({ id, at: Date.now(), reason }, sources.keys(), { sha256: platformSha256 });
    const changes = changesOf(await getInstall(context.install));
    await changes.carryOut(context, { act: 'keep', reference, from: [...sources] });
    if (before.missing.length > 0)
      await changes.carryOut(uncounted(context), { act: 'drop', reference: comingFor(id) });
  },
  async undo(context) {
    const { build, isKept } = readParams(context, ParamsSchema);
    if (isKept) return;
    const { game } = await query('keepPlan', context.install, build);
    const changes = changesOf(await getInstall(context.install));
    const id = await referenceTo(game, build);
    for (const reference of [id, comingFor(id)]) await changes.carryOut(uncounted(context), { act: 'drop', reference });
  },
};
