import { inLanes } from '#core/calls';
import { StorefrontAnswerSchema } from '#core/outside';
import { browserDisk, INSTALL_DISK, treePath } from '~/folders';
import { getInstall, updateInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { batches, runCounted } from './batches';

/**
 * The storefront updates the folder in place, as storefronts do: first its record, then file over file. A locked record
 * stops it before anything is touched.
 */
export const storefrontUpdate: Kind = {
  async run(context) {
    const answer = readParams(context, StorefrontAnswerSchema);
    if (answer.action !== 'update') return;
    const { tree, record } = await getInstall(context.install);
    if (record?.kind !== 'disk') return;
    const disk = browserDisk(INSTALL_DISK(context.install));
    context.phase(
      `The storefront updates to ${answer.build}`,
      answer.write.length,
      answer.write.reduce((sum, f) => sum + f.size, 0),
    );
    await disk.writeWhole(record.path, new TextEncoder().encode(JSON.stringify(answer.record, null, 2)));
    await updateInstall(context.install, (now) => ({ ...now, changedAt: Date.now() }));
    const files = answer.write.map(({ path, size, href }) => ({ to: treePath(tree, path), size, href }));
    await inLanes(batches(files), 2, context, async (batch) => {
      await runCounted(context, { do: 'download', disk: INSTALL_DISK(context.install), files: batch });
    });
    for (const path of answer.remove) await disk.remove(treePath(tree, path));
    await updateInstall(context.install, (now) => ({ ...now, changedAt: Date.now() }));
  },
};
