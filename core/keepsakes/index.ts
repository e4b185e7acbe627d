export { bagChecksums, bagFiles, bagName, BAG_PAYLOAD } from './bag';
export type { BackupInfo, BagEntry, BagInfo } from './bag';
