import { browserDisk, INSTALL_DISK } from '~/folders';
import { query } from '~/queries/client';
import { getInstall, updateInstall } from '~/store/installs';
import { journalled } from '~/store/journal';
import { readRecord, writeRecord } from './install-record';

/**
 * Makes the folder that is kept aside the game's folder again, and keeps the present one aside: the inverse of the swap
 * that laying down makes, and so of itself.
 * @throws Failure `folder/read-only` while the record is locked; nothing is changed then
 */
export async function swapBack(installId: string): Promise<void> {
  await navigator.locks.request(`regressum-disk-${installId}`, async () => {
    const install = await getInstall(installId);
    const { aside, tree } = install;
    if (!aside) return;
    const { likeliest } = await query('frame', installId);
    const disk = browserDisk(INSTALL_DISK(installId));
    const record = await readRecord(disk);
    if (aside.build) await writeRecord(disk, { ...record, build: aside.build });
    const bytes = (await disk.list(`trees/${tree}`)).reduce((sum, { size }) => sum + size, 0);
    await journalled(installId, 'swap-back', { kind: 'swap', from: tree, to: aside.tree }, () =>
      updateInstall(installId, (now) => ({
        ...now,
        tree: aside.tree,
        aside: { tree, build: likeliest, bytes },
      })),
    );
  });
}
