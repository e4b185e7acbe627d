import { z } from 'zod';
import { Failure } from '#core/failure';
import { aroundFlags, changeSet, changesOf, inPlaceSteps } from '~/changes';
import { query } from '~/queries';
import { getInstall } from '~/store';
import { beginPhase, type Kind, readParams, uncounted } from '../job-context';
import { fetchContents, fetchedBy } from './fetch';
import { keepOwnBefore } from './keep-own';
import { noteChange } from './note-change';
import { takeBackChange } from './take-back-change';

const ParamsSchema = z.object({
  /** Files that are left alone. */
  leave: z.array(z.string()),
});

/**
 * Makes a folder clean as one change: sets strays aside, puts back what lies elsewhere, fetches and puts in place what is
 * missing.
 */
export const clean: Kind = {
  async run(context) {
    const { leave } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    const changes = changesOf(install);
    if (await changes.read(context.id)) await changes.run(context, context.id, 'on');
    else {
      await keepOwnBefore(context, 'clean');
      const wanted = await query('cleanPlan', install.id, leave);
      const { build, toFetch: items } = wanted;
      if (items.length > 0) await fetchContents(context, install, { id: fetchedBy(context.id), build, items });
      const { plan, toFetch } = items.length > 0 ? await query('cleanPlan', install.id, leave) : wanted;
      if (toFetch.length > 0)
        throw new Failure('folder/not-found', { path: toFetch[0]!.path, missing: toFetch.length });
      const change = inPlaceSteps(context.id, plan, await changes.disk.current());
      const steps = await aroundFlags(changes.disk, change);
      beginPhase(context, 'Cleaning up', steps);
      await changes.run(context, context.id, 'on', changeSet(context.id, 'clean', { build }, steps));
    }
    await noteChange(install.id, changes, context.id);
    await changes.carryOut(uncounted(context), { act: 'drop', reference: fetchedBy(context.id) });
  },
  async undo(context) {
    await takeBackChange(context);
    const changes = changesOf(await getInstall(context.install));
    await changes.carryOut(context, { act: 'drop', reference: fetchedBy(context.id) });
  },
};
