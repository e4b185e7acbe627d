export { versionAgrees } from './agree';
export { programVersion, type ReadBytes } from './program';
export { versionInText } from './in-text';
