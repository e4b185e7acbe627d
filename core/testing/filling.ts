import type { ArrivalFolder } from '#core/contents';
import type { Failure } from '#core/failure';

/** A folder that has room for so many bytes more, and then fails as a full disk does. */
export function filling(folder: ArrivalFolder, room: number, full: Failure<'folder/full'>): ArrivalFolder {
  let left = room;
  return {
    ...folder,
    async writeAt(path, at, bytes) {
      if ((left -= bytes.length) < 0) throw full;
      await folder.writeAt(path, at, bytes);
    },
  };
}
