export { browserDisk } from './browser-disk';
export { dropDisk, installDisk, installFolder, withPointer } from './install-disk';
export { filesOfInput, handedFolder, type HandedFiles } from './handed-folder';
export { INSTALL_DISK, KEEPSAKES, keepsakePath, partPath, treePath } from './layout';
export { copyStore, dropStore, pickedDisk, type PickedPlace } from './picked-disk';
export { pickedFolder } from './picked-folder';
export { type Place, readerAt } from './places';
export { servedValues, type ServedPlace } from './served-folder';
export { servedStore, type ServedStore } from './served-store';
