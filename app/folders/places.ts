import { browserDisk } from './browser-disk';
import type { FolderReader } from '#core/folders';
import { handedFolder, type HandedFiles } from './handed-folder';
import type { PickedPlace } from './picked-disk';
import { pickedFolder } from './picked-folder';
import { servedContents, servedFolder, type ServedPlace } from './served-folder';

/** Where files lie, in a form that crosses to a worker. */
export type Place =
  | { readonly kind: 'browser-disk'; readonly disk: string }
  | PickedPlace
  /** Only those of the task's files; a file crosses as a reference, not as its bytes. */
  | { readonly kind: 'handed'; readonly files: HandedFiles }
  | ServedPlace;

export function readerAt(place: Place): FolderReader {
  switch (place.kind) {
    case 'browser-disk':
      return browserDisk(place.disk);
    case 'picked':
      return pickedFolder(place.handle);
    case 'handed':
      return handedFolder(place.files);
    case 'served':
      return place.contents ? servedContents(place) : servedFolder(place);
  }
}
