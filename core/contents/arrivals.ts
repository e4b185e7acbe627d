import type { ContentKey } from '#core/digest';
import type { Folder } from '#core/folders';
import { arrivingPath, contentPath } from './names';

/** As much of a folder as a fetch needs, which puts contents down before they are whole. */
export interface ArrivalFolder extends Pick<Folder, 'stat' | 'open' | 'writeAt' | 'read' | 'writeWhole' | 'remove'> {
  /** Puts a content into the store that has come whole, all of its pieces being right. */
  takeIn(name: string, key: ContentKey): Promise<void>;
}

/** Where contents arrive on a disk. */
export const arrivals = (folder: Folder): ArrivalFolder => ({
  stat: (path) => folder.stat(path),
  open: (path) => folder.open(path),
  writeAt: (path, offset, bytes) => folder.writeAt(path, offset, bytes),
  read: (path, start, end) => folder.read(path, start, end),
  remove: (path) => folder.remove(path),
  writeWhole: (path, bytes) => folder.writeWhole(path, bytes),
  takeIn: (name) => folder.move(arrivingPath(name), contentPath(name)),
});
