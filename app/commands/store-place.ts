import { Failure } from '#core/failure';
import { takeFromMirror } from '~/changes';
import { dropStore, pickedDisk } from '~/folders';
import { jobs } from '~/jobs';
import { askFor } from '~/places';
import { query } from '~/queries';
import { broadcast, getInstall, updateInstall } from '~/store';

/**
 * Has the store of a picked folder lie in another folder, on another drive perhaps: what changes keep then takes no room on
 * the game's. A store of this folder that lies there already is taken over, where the present one has nothing.
 * @param to a picked folder; undefined for the game's own
 * @throws Failure `folder/nested`, `folder/store-there`, `folder/no-permission`
 */
export async function placeStore(installId: string, to: FileSystemDirectoryHandle | undefined): Promise<void> {
  const { place, folder, tree, id } = await getInstall(installId);
  if (place.kind !== 'picked') throw new Failure('folder/no-permission', { path: folder });
  const { handle, store: from } = place;
  if (to && ((await handle.resolve(to)) ?? (await to.resolve(handle))))
    throw new Failure('folder/nested', { path: to.name });
  const next = { kind: 'picked', handle, ...(to && { store: to }) } as const;
  if (!(await askFor(next, 'readwrite'))) throw new Failure('folder/no-permission', { path: to?.name ?? folder });
  const there = await pickedDisk({ ...next, disk: '', tree }).list();
  const view = await query('storeOfInstall', id);
  if (there.length > 0) {
    if (!view || view.history.length > 0) throw new Failure('folder/store-there', { path: to?.name ?? folder });
    await updateInstall(id, (now) => ({ ...now, place: next }));
    // What lay there before had nothing but records of this browser's own.
    await dropStore(place);
    await takeFromMirror(id);
    broadcast({ type: 'changed' });
    return;
  }
  const { files, bytes } = storeSum(await pickedDisk({ ...place, disk: '', tree }).list());
  await jobs.start('move-store', id, { ...(to && { to }), ...(from && { from }), files, bytes });
}

/** Has what is decided here replace what the store of a folder keeps and could not be taken over. */
export async function mirrorOver(installId: string): Promise<void> {
  await updateInstall(installId, (now) => ({ ...now, mirrorsOver: true }));
  broadcast({ type: 'changed' });
}

const storeSum = (files: readonly { size: number }[]): { files: number; bytes: number } => ({
  files: files.length,
  bytes: files.reduce((sum, { size }) => sum + size, 0),
});
