export { browserDisk, fileOnBrowserDisk } from './browser-disk';
export { dropDisk, dropFetched, installDisk, withPointer } from './install-disk';
export { filesOfInput, handedFolder, type HandedFiles } from './handed-folder';
export {
  FETCHED,
  fetchedPath,
  INSTALL_DISK,
  KEEPSAKES,
  keepsakePath,
  layDownWays,
  partPath,
  RECORD_PATH,
  treePath,
} from './layout';
export { pickedDisk, type PickedPlace } from './picked-disk';
export { pickedFolder } from './picked-folder';
export { type Place, readerAt } from './places';
export { servedValues, type ServedPlace } from './served-folder';
export { type ArrivalFolder, servedStore } from './served-store';
