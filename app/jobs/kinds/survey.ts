import { z } from 'zod';
import { browserDisk, INSTALL_DISK, RECORD_PATH } from '~/folders';
import { isFailure } from '#core/failure';
import { reckon } from '~/reckoning/client';
import { refreshServices } from '~/services/services';
import { readRecord } from '~/services/install-record';
import { addHoldCheck, getHold } from '~/store/holds';
import { getInstall, putSurvey } from '~/store/installs';
import { type Kind, readParams } from '../job-context';
import { hashTree } from './hash-tree';

const ParamsSchema = z.object({ checkHold: z.boolean().default(false) });

/** Finds out what lies in the folder: every file is hashed. With a hold, also whether its means still stand. */
export const survey: Kind = {
  async run(context) {
    const { checkHold } = readParams(context, ParamsSchema);
    context.phase('Reading manifests', 0, 0);
    await refreshServices().catch((error: unknown) => {
      // Offline, what the services said before is good enough to look at a folder.
      if (!isFailure(error, 'service/unreachable')) throw error;
    });
    await reckon('learn', context.install);
    const install = await getInstall(context.install);
    const found = await hashTree(context, install.tree, 'Looking at every file');
    await putSurvey({ install: install.id, ...found });
    if (checkHold && (await getHold(install.id))) {
      const disk = browserDisk(INSTALL_DISK(install.id));
      const view = await reckon('holdView', install.id);
      await addHoldCheck(install.id, {
        at: Date.now(),
        drift: view.departures.length,
        setting: (await readRecord(disk)).updates === 'when-asked',
        lock: await disk.isReadOnly(RECORD_PATH),
      });
    }
  },
};
