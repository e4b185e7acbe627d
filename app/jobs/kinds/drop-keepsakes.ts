import { z } from 'zod';
import { keeping, onOwnDisk } from '~/changes';
import { keeperOf } from '~/places';
import { getInstall } from '~/store';
import { type Kind, readParams, uncounted } from '../job-context';

const ParamsSchema = z.object({ keepsakes: z.array(z.string()) });

/** Deletes keepsakes for good, with their copies, and with the contents that nothing else refers to. */
export const dropKeepsakes: Kind = {
  async run(context) {
    const { keepsakes } = readParams(context, ParamsSchema);
    context.phase('Deleting keepsakes', keepsakes.length, 0);
    const install = await getInstall(context.install);
    const changes = await keeping(install);
    const copies = (await keeperOf(install)).lies === 'browser' ? undefined : onOwnDisk(install);
    for (const keepsake of keepsakes) {
      await context.gate();
      await changes.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake });
      await copies?.carryOut(uncounted(context), { act: 'drop-keepsake', keepsake });
      context.add(1, 0);
    }
  },
};
