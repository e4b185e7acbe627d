export { CHECKSUM_KINDS, type ChecksumKind, kindOfDigest } from './kinds';
export { type ChecksumList, type ListedFile, parseChecksumList } from './parse';
export { type ListForm, writeChecksumList } from './write';
export { linesOf } from './lines';
export { digestsInText, hasDigest } from './digests-in-text';
export type { DigestInText, DigestsInText, MistypedDigest } from './digests-in-text';
