import { z } from 'zod';
import { browserDisk, INSTALL_DISK, treePath } from '~/folders';
import { getInstall, removeSurvey, updateInstall } from '~/store/installs';
import { journalled } from '~/store/journal';
import { type Kind, readParams } from '../job-context';

const ParamsSchema = z.object({ tree: z.string() });

/** Removes the old folder for good. Never the one that is the game's folder now. */
export const letGo: Kind = {
  async run(context) {
    const { tree } = readParams(context, ParamsSchema);
    if ((await getInstall(context.install)).tree === tree) return;
    context.phase('Removing the old folder', 0, 0);
    await journalled(context.install, context.id, { kind: 'remove-tree', tree }, () =>
      browserDisk(INSTALL_DISK(context.install)).remove(treePath(tree)),
    );
    await removeSurvey(context.install, tree);
    await updateInstall(context.install, ({ aside, ...now }) =>
      aside?.tree === tree || !aside ? now : { ...now, aside },
    );
  },
};
