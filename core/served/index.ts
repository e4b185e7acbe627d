export {
  SERVED_TOKEN_HEADER,
  ServedEntrySchema,
  ServedHashSchema,
  type ServedCode,
  type ServedHash,
  type ServedHashRequest,
  ServedHashRequestSchema,
  ServedRootsSchema,
} from './wire';
