import { z } from 'zod';
import { keeping } from '~/changes';
import { getInstall } from '~/store';
import { type Kind, readParams, uncounted } from '../job-context';

const ParamsSchema = z.object({ keepsakes: z.array(z.string()) });

/** Deletes keepsakes for good, with the contents that nothing else refers to. */
export const dropKeepsakes: Kind = {
  async run(context) {
    const { keepsakes } = readParams(context, ParamsSchema);
    context.phase('Deleting keepsakes', keepsakes.length, 0);
    const changes = await keeping(await getInstall(context.install));
    for (const keepsake of keepsakes) {
      await context.gate();
      await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake });
      context.add(1, 0);
    }
  },
};
