export { CHECKSUM_KINDS, type ChecksumKind, kindOfDigest } from './kinds';
export { type ChecksumList, type ListedFile, parseChecksumList } from './parse';
export { writeChecksumList } from './write';
