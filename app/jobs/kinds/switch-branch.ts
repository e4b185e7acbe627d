import { z } from 'zod';
import { Failure } from '#core/failure';
import { changesOf, recordBranch, recordOf, withBranch } from '~/changes';
import { getHold, getInstall } from '~/store';
import { editRecord, takeBackEdit } from './edit-record';
import { type Kind, readParams } from '../job-context';
import { keepOwnBefore } from './keep-own';

const ParamsSchema = z.object({ branch: z.string().min(1), code: z.string().min(1).optional() });

/**
 * Has the storefront follow another branch, by its record: what it does then is its own business, and shows in the next
 * survey. A hold is let go by the person first.
 */
export const switchBranch: Kind = {
  async run(context) {
    const { branch, code } = readParams(context, ParamsSchema);
    const install = await getInstall(context.install);
    if (await getHold(install.id)) throw new Failure('record/held', { what: branch });
    const record = await recordOf(install);
    const from = await recordBranch(changesOf(install).disk, record);
    if (!record || from === undefined)
      throw new Failure('record/not-as-ruled', { file: record?.rule.file ?? '', what: 'says nothing of a branch' });
    // What comes by it may touch saves when the game is started next.
    await keepOwnBefore(context, 'switch-branch');
    const facts = { branch, ...(from !== branch && { from }) };
    await editRecord(context, { what: 'switch-branch', facts }, withBranch(branch, code), false);
  },
  undo: takeBackEdit,
};
