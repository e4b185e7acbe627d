import { z } from 'zod';
import { changesOf, coveredBy } from '~/changes';
import { getInstall, removeSurvey } from '~/store';
import { type Kind, readParams } from '../job-context';

const ParamsSchema = z.object({ set: z.string() });

/** Removes for good what a change set keeps. Never what is the game's folder now. */
export const letGo: Kind = {
  async run(context) {
    const { set } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    context.phase('Deleting what the change keeps', 0, 0);
    const changes = changesOf(install);
    const known = await changes.read(set);
    await changes.carryOut(context, { act: 'let-go', set });
    // Taken back for good, it covers nothing any more.
    if (known?.way === 'back') await changes.carryOut(context, { act: 'drop', reference: coveredBy(set) });
    const trees = known?.set.steps.flatMap((step) => (step.do === 'exchange' ? [step.from, step.to] : [])) ?? [];
    for (const tree of trees) if (tree !== install.tree) await removeSurvey(install.id, tree);
  },
};
