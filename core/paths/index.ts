export { assertSafePath, PathSet, SafePathSchema } from './safe-path';
export { depthOf, fileName, folderOf, isBelow, topFolder } from './parts';
export { fitsGlob, isGlob, PathOrGlobSchema } from './glob';
export { HrefSchema } from './href';
