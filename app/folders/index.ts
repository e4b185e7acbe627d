export { browserDisk } from './browser-disk';
export type { Folder, FolderAbilities, FolderEntry, FolderReader, OpenFile } from './folder';
export { filesOfInput, handedFolder, type HandedFiles } from './handed-folder';
export { memoryFolder } from './memory-folder';
export { fetchedPath, INSTALL_DISK, RECORD_PATH, treePath } from './layout';
export { pickedFolder } from './picked-folder';
export { type Place, readerAt } from './places';
