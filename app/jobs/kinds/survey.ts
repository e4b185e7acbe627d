import { z } from 'zod';
import { changesOf, recordMeans } from '~/changes';
import { query } from '~/queries';
import { addHoldCheck, dropReadings, getHold, getInstall, getSurvey, putSurvey } from '~/store';
import { type Kind, readParams } from '../job-context';
import { hashTree } from './hash-tree';
import { readManifests } from './look';
import { saveBuilds } from './save-builds';
import { sourceOf } from '~/places';

const ParamsSchema = z.object({
  checkHold: z.boolean().default(false),
  /** Takes the digests of the last survey for files that have the same size and time still. */
  trustEarlier: z.boolean().default(false),
});

/** Finds out what lies in the folder, file by file. With a hold, also whether its means still stand. */
export const survey: Kind = {
  async run(context) {
    const { checkHold, trustEarlier } = readParams(context, ParamsSchema);
    await readManifests(context);
    const install = await getInstall(context.install);
    const earlier = trustEarlier ? await getSurvey(install) : undefined;
    const phase = earlier ? 'Checking changed files' : 'Checking every file';
    const found = await hashTree(context, install.tree, phase, earlier ? [earlier] : []);
    const source = await sourceOf(install, install.tree);
    await putSurvey({ install: install.id, ...found, saveBuilds: await saveBuilds(source, found) });
    await dropReadings(context.id);
    if (checkHold && (await getHold(install.id))) {
      const view = await query('holdView', install.id);
      await addHoldCheck(install.id, {
        at: Date.now(),
        drift: view.departures.length,
        ...(await recordMeans(changesOf(install).disk)),
      });
    }
  },
  undo: (context) => dropReadings(context.id),
};
