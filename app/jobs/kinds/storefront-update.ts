import { StorefrontAnswerSchema } from '#core/hold';
import { browserDisk, INSTALL_DISK, RECORD_PATH, treePath } from '~/folders';
import { recordText } from '~/changes';
import { getInstall, updateInstall } from '~/store';
import { type Kind, readParams } from '../job-context';
import { batches, inLanes, runCounted } from './batches';

/**
 * The storefront updates the folder in place, as storefronts do: first its record, then file over file. A locked record
 * stops it before anything is touched.
 */
export const storefrontUpdate: Kind = {
  async run(context) {
    const answer = readParams(context, StorefrontAnswerSchema);
    if (answer.action !== 'update') return;
    const { tree } = await getInstall(context.install);
    const disk = browserDisk(INSTALL_DISK(context.install));
    context.phase(
      `The storefront updates to ${answer.build}`,
      answer.write.length,
      answer.write.reduce((sum, f) => sum + f.size, 0),
    );
    await disk.writeWhole(RECORD_PATH, new TextEncoder().encode(recordText(answer.record)));
    await updateInstall(context.install, (now) => ({ ...now, changedAt: Date.now() }));
    const files = answer.write.map(({ path, size, href }) => ({ to: treePath(tree, path), size, href }));
    await inLanes(batches(files), 2, context, async (batch) => {
      await runCounted(context, { do: 'download', disk: INSTALL_DISK(context.install), files: batch });
    });
    for (const path of answer.remove) await disk.remove(treePath(tree, path));
    await updateInstall(context.install, (now) => ({ ...now, changedAt: Date.now() }));
  },
};
