import { z } from 'zod';
import { BuildLabelSchema } from '#core/builds';
import { makeReference } from '#core/contents';
import { Failure } from '#core/failure';
import { changesOf } from '~/changes';
import { query } from '~/queries';
import { platformSha256 } from '~/remote';
import { getInstall } from '~/store';
import { type Kind, readParams, uncounted } from '../job-context';

const ParamsSchema = z.object({
  build: BuildLabelSchema,
  /** Whether it is kept already, and only completed: then cancelling gives nothing up. */
  isKept: z.boolean().default(false),
});

/** The reference by which a build is kept: one for all installs of a game. */
async function referenceTo(game: string, build: string): Promise<string> {
  return `build-${(await platformSha256(JSON.stringify([game, build]))).slice(0, 16)}`;
}

/** Keeps a build whole in the store: what of it lies on the disk is copied there, each content once. */
export const keepBuild: Kind = {
  async run(context) {
    const { build } = readParams(context, ParamsSchema);
    const { game, sources, bytes, missing } = await query('keepPlan', context.install, build);
    if (missing.length > 0) throw new Failure('folder/not-found', { path: missing[0]!, missing: missing.length });
    context.phase(`Keeping ${build}`, sources.size, bytes);
    const id = await referenceTo(game, build);
    const reason = { kind: 'build', game, build } as const;
    const reference = await makeReference({ id, at: Date.now(), reason }, sources.keys(), { sha256: platformSha256 });
    const changes = changesOf(await getInstall(context.install));
    await changes.carryOut(context, { act: 'keep', reference, from: [...sources] });
  },
  async undo(context) {
    const { build, isKept } = readParams(context, ParamsSchema);
    if (isKept) return;
    const { game } = await query('keepPlan', context.install, build);
    const changes = changesOf(await getInstall(context.install));
    await changes.carryOut(uncounted(context), { act: 'drop', reference: await referenceTo(game, build) });
  },
};
