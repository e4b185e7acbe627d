export { fileAt, manifestBytes, manifestFiles, manifestFromFiles } from './manifest';
export type { Manifest, ManifestFile } from './manifest';
export { parseMetalink, writeMetalink } from './metalink';
export { layerFolders, overlay } from './overlay';
export type { LaidFile } from './overlay';
