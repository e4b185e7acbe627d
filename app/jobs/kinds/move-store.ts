import { z } from 'zod';
import { Failure } from '#core/failure';
import { copyStore, dropStore } from '~/folders';
import { getInstall, HandleSchema, type Install, type InstallPlace, updateInstall } from '~/store';
import { type JobContext, type Kind, readParams } from '../job-context';

const ParamsSchema = z.object({
  /** The picked folder that is to have the store; left out: the game's folder itself. */
  to: HandleSchema.exactOptional(),
  /** Where it lay before. */
  from: HandleSchema.exactOptional(),
  files: z.number(),
  bytes: z.number(),
});

type Picked = Extract<InstallPlace, { kind: 'picked' }>;

const isSame = async (a?: FileSystemDirectoryHandle, b?: FileSystemDirectoryHandle): Promise<boolean> =>
  a && b ? a.isSameEntry(b) : a === b;

const at = (handle: FileSystemDirectoryHandle, store?: FileSystemDirectoryHandle): Picked => ({
  kind: 'picked',
  handle,
  ...(store && { store }),
});

async function pickedPlace(install: string): Promise<Picked> {
  const { place, folder } = await getInstall(install);
  if (place.kind !== 'picked') throw new Failure('folder/no-permission', { path: folder });
  return place;
}

/**
 * Moves the store of a picked folder into another one that was picked, or back. It is copied whole before the new one
 * counts, and the old one goes only then.
 */
export const moveStore: Kind = {
  async run(context) {
    const { to, from, files, bytes } = readParams(context, ParamsSchema);
    const place = await pickedPlace(context.install);
    if (!(await isSame(place.store, to))) {
      context.phase('Copying the store', files, bytes);
      await context.pausing((signal) =>
        copyStore(place, to, { signal, progress: (done) => context.add(done.files, done.bytes) }),
      );
      await updateInstall(context.install, (now): Install => ({ ...now, place: at(place.handle, to) }));
    }
    await dropStore(at(place.handle, from));
  },
  async undo(context: JobContext) {
    const { to } = readParams(context, ParamsSchema);
    const place = await pickedPlace(context.install);
    // Where it counts already, the old one is all that is left to go.
    if (await isSame(place.store, to)) await moveStore.run(context);
    else await dropStore(at(place.handle, to));
  },
};
