import { z } from 'zod';
import { asMod } from '#core/builds';
import { CHECK_AGAIN_MS } from '#core/contents';
import { changesOf } from '~/changes';
import { query } from '~/queries';
import { getInstall, removeShelved } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';

const SumShape = { files: z.number(), bytes: z.number() };
const ParamsSchema = z.discriminatedUnion('act', [
  z.object({ act: z.literal('drop'), reference: z.string(), ...SumShape }),
  z.object({ act: z.literal('verify'), reference: z.string(), ...SumShape }),
]);

const PHASES = {
  drop: 'Deleting kept contents',
  verify: 'Checking kept contents',
} as const;

/** Reads what the store keeps again, or removes what a person gives up. */
export const tendStore: Kind = {
  async run(context) {
    const params = readParams(context, ParamsSchema);
    context.phase(PHASES[params.act], params.files, params.bytes);
    const { act, reference } = params;
    const known = act === 'drop' ? await query('keptContents', context.install) : undefined;
    const dropped = known?.find(({ id }) => id === reference)?.reason;
    await changesOf(await getInstall(context.install)).carryOut(context, { act, reference });
    if (dropped?.kind === 'release') await removeShelved(dropped.game, asMod(dropped.mod), dropped.release);
  },
};

/** Has kept builds read again that have not been for long: bytes rot, and on the day of need it is too late. */
export async function checkKeptAgain(context: JobContext): Promise<void> {
  for (const { id, reason, checkedAt, files, bytes } of (await query('keptContents', context.install)) ?? []) {
    if (reason.kind !== 'build' || checkedAt === undefined || Date.now() - checkedAt < CHECK_AGAIN_MS) continue;
    context.then('tend-store', { act: 'verify', reference: id, files, bytes });
  }
}
