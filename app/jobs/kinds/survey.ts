import { z } from 'zod';
import { holdMeans } from '~/changes';
import { query } from '~/queries';
import { addHoldCheck, dropReadings, getHold, getInstall, getSurvey, putSurvey } from '~/store';
import { type Kind, readParams, unlessDefect } from '../job-context';
import { hashTree } from './hash-tree';
import { modListOf, takeOverOrder } from './mod-list';
import { loaderSwitchOf } from './loader-switch';
import { readManifests } from './look';
import { checkKeptAgain } from './tend-store';
import { noteOutside } from './note-outside';
import { saveBuilds } from './save-builds';
import { versionsTold } from './versions-told';
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
    const before = await getSurvey(install);
    const surveyed = {
      install: install.id,
      ...found,
      versions: await versionsTold(source, install.game),
      saveBuilds: await saveBuilds(source, found, install.game),
      ...(await modListOf(source.reader, source.root, install.game, before)),
      ...(await loaderSwitchOf(source.reader, source.root, install.game)),
    };
    await putSurvey(surveyed);
    await takeOverOrder(surveyed, before);
    await dropReadings(context.id);
    if (before) await noteOutside(context, install, before.at).catch(unlessDefect);
    await checkKeptAgain(context).catch(unlessDefect);
    if (checkHold && (await getHold(install.id))) {
      const { hold, departures, unknown } = await query('holdView', install.id);
      const means = await holdMeans(install, hold, true);
      // Where nothing could be compared nothing was checked.
      if (unknown.length === 0) await addHoldCheck(install.id, { at: Date.now(), drift: departures.length, ...means });
    }
  },
  undo: (context) => dropReadings(context.id),
};
