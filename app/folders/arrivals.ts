import { arrivingPath, contentPath } from '#core/contents';
import type { ContentKey } from '#core/digest';
import type { Folder } from '#core/folders';

/** As much of a folder as a fetch needs, which puts contents down before they are whole. */
export interface ArrivalFolder extends Pick<Folder, 'stat' | 'open' | 'writeAt' | 'read' | 'writeWhole'> {
  /** Puts a content into the store that has come whole, all of its pieces being right. */
  takeIn(name: string, key: ContentKey): Promise<void>;
}

/** Where contents arrive on a disk. */
export const arrivals = (folder: Folder): ArrivalFolder => ({
  ...folder,
  takeIn: (name) => folder.move(arrivingPath(name), contentPath(name)),
});
