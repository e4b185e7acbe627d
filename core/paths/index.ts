export { assertSafePath, PathSet, SafePathSchema } from './safe-path';
export { depthOf, fileName, folderOf, isBelow, topFolder } from './parts';
export { HrefSchema } from './href';
