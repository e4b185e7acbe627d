import { mirrorInstall } from '~/changes';
import { query } from '~/queries';
import { type Kind, uncounted, unlessDefect } from '../job-context';

/** Leaves in the folder's store what is known after the job, for when this browser has forgotten it; where that fails, next time. */
export const mirrored = (kind: Kind): Kind => ({
  ...kind,
  async run(context) {
    await kind.run(context);
    const restsOf = () => query('restsOf', context.install);
    await mirrorInstall(uncounted(context), context.install, restsOf).catch(unlessDefect);
  },
});
