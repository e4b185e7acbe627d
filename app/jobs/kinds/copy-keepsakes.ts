import { type Failure, isFailure } from '#core/failure';
import { onOwnDisk } from '~/changes';
import { contentsBeside, keepsakesBy, keepsakesOf } from '~/places';
import { getInstall } from '~/store';
import type { JobContext, Kind } from '../job-context';
import { besideKept, KEPT, sumOf } from './kept-contents';

/** Has the keepsakes that a job makes copied once it has ended, where the person wants copies. */
export async function copyAfterwards({ install, then }: Pick<JobContext, 'install' | 'then'>): Promise<void> {
  if ((await getInstall(install)).keepsakeCopies === 'kept') then('copy-keepsakes', {});
}

/**
 * Copies the keepsakes that lie with a folder to this browser's own disk, each content once, so that they outlast the folder.
 * What is copied is checked. The newest come first.
 */
export const copyKeepsakes: Kind = {
  async run(context) {
    const install = await getInstall(context.install);
    const { uncopied } = await keepsakesOf(install);
    const keepsakes = await keepsakesBy(
      install,
      uncopied.map(({ id }) => id),
    );
    const kept = await contentsBeside(install);
    const own = onOwnDisk(install, kept && { [KEPT]: kept });
    context.phase('Copying keepsakes to this browser', ...sumOf(keepsakes.values()));
    let failed: Failure | undefined;
    for (const keepsake of keepsakes.values()) {
      await context.gate();
      // Contents of a picked folder lie on this browser's disk already.
      const from = kept ? await besideKept(keepsake) : [];
      try {
        await own.carryOut(context, { act: 'keepsake', install: install.id, keepsake, from });
      } catch (error) {
        // One whose contents are not whole any more keeps nobody from copying the others.
        if (!isFailure(error, 'folder/not-found') && !isFailure(error, 'folder/changed-meanwhile')) throw error;
        failed ??= error;
      }
    }
    if (failed) throw failed;
  },
};
