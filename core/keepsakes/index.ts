export { bagChecksums, bagFiles, bagName, BAG_PAYLOAD } from './bag';
export type { BagEntry, BagInfo } from './bag';
