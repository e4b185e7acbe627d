export { type DepotCopy, type FilesAndBytes, type KnownDepot, recogniseDepots } from './recognise';
