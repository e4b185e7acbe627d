export { fileAt, hasKeyAt, keyAt, manifestBytes, manifestDigests, manifestFiles, manifestFromFiles } from './manifest';
export type { Manifest, ManifestFile, OtherKind } from './manifest';
export { parseMetalink, writeMetalink } from './metalink';
export { layerFolders, overlay } from './overlay';
export type { LaidFile } from './overlay';
