export { assertSafePath, PathSet } from './safe-path';
export { depthOf, fileName, folderOf, isBelow, topFolder } from './parts';
