import { z } from 'zod';
import { changesOf } from '~/changes';
import { getInstall, removeSurvey, updateInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { setOfAside } from './take-back';

const ParamsSchema = z.object({ set: z.string() });

/** Removes for good what a change set keeps. Never what is the game's folder now. */
export const letGo: Kind = {
  async run(context) {
    const { set } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    context.phase('Removing the old folder', 0, 0);
    const changes = changesOf(install);
    const old = await setOfAside(install.id, changes, set);
    if (old) await changes.run(context, set, 'back', old);
    await changes.letGo(context, set);
    if (install.aside?.set === set) await removeSurvey(install.id, install.aside.tree);
    await updateInstall(install.id, ({ aside, ...now }) => (!aside || aside.set === set ? now : { ...now, aside }));
  },
};
