export { browserDisk } from './browser-disk';
export type { Folder, FolderAbilities, FolderEntry, OpenFile } from './folder';
export { memoryFolder } from './memory-folder';
export { fetchedPath, INSTALL_DISK, RECORD_PATH, treePath } from './layout';
