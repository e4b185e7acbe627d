import { inLanes } from '#core/calls';
import { browserDisk, INSTALL_DISK, treePath } from '~/folders';
import { query } from '~/queries';
import { firstInstall } from '~/remote';
import { getInstall, updateInstall } from '~/store';
import type { Kind } from '../job-context';
import { batches, runCounted } from './batches';

/** The storefront puts the game on the disk, as it did before Regressum came. What lies there already is not sent again. */
export const seed: Kind = {
  async run(context) {
    const install = await getInstall(context.install);
    context.phase('Laying out the demo folder', 0, 0);
    await query('refreshSources', install.game);
    const list = await firstInstall();
    const disk = browserDisk(INSTALL_DISK(install.id));
    const there = new Map((await disk.list(treePath(install.tree))).map(({ path, size }) => [path, size]));
    const files = list.files
      .map(({ path, size, href }) => ({ to: treePath(install.tree, path), size, href }))
      .filter(({ to, size }) => there.get(to) !== size);
    context.phase(
      'Laying out the demo folder',
      files.length,
      files.reduce((sum, { size }) => sum + size, 0),
    );
    await inLanes(batches(files), 2, context, async (batch) => {
      await runCounted(context, { do: 'download', disk: INSTALL_DISK(install.id), files: batch });
    });
    await disk.writeWhole(list.recordPath, new TextEncoder().encode(JSON.stringify(list.record, null, 2)));
    const times = list.files.flatMap(({ path, modified }) =>
      modified === undefined ? [] : [[path, modified] as const],
    );
    const at = Date.now();
    await updateInstall(install.id, (now) => ({ ...now, arrived: true, changedAt: at, toldTimes: { at, times } }));
  },
};
