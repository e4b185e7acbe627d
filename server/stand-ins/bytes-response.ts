import { fileResponse } from '../http/file-response';
import { sha256 } from './library';

/** Answers with bytes that are in memory, as {@link fileResponse} does with a file. */
export const bytesResponse = (request: Request, bytes: Uint8Array): Response =>
  fileResponse(request, {
    size: bytes.length,
    etag: `"${sha256(bytes)}"`,
    read: (start, end) => bytes.slice(start, end),
  });
