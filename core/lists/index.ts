export { CHECKSUM_KINDS, type ChecksumKind, kindOfDigest } from './kinds';
export { type ChecksumList, type ListedFile, parseChecksumList } from './parse';
export { writeChecksumList } from './write';
export { digestsInText } from './digests-in-text';
export type { DigestInText, DigestsInText, MistypedDigest } from './digests-in-text';
