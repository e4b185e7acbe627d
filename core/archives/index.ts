export { archiveKind, type ArchiveEntry, type ArchiveKind, EntryGuard, HEAD_BYTES, isPartOfArchive } from './entries';
export { type Ground, marksOf } from './mod-form';
export { namedRelease, type NamedRelease } from './named';
export { rarChain } from './rar-blocks';
export { type ArchivePart, type Placement, placeFiles, placeOf, spellingOf, type Why } from './place';
export { type ArchivesRead, type DraftRelease, type KnownRelease, readArchives, type ReadArchive } from './read';
export { toldByText } from './told';
