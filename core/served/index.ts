export {
  SERVED_TOKEN_HEADER,
  ServedEntrySchema,
  ServedHashSchema,
  type ServedHash,
  type ServedHashRequest,
  ServedHashRequestSchema,
  ServedRootsSchema,
} from './wire';
