import type { z } from 'zod';
import { Failure, type FailureCode, failureToWire, isFailure } from '#core/failure';
import { parseJson } from '#core/json';

const STATUS: Partial<Record<FailureCode, number>> = {
  'service/sign-in-needed': 401,
  'service/refused': 403,
  'service/not-owned': 403,
  'service/failed': 503,
  'served/off': 404,
  'served/refused': 403,
  'served/outside': 403,
  'folder/not-found': 404,
  'demo/unknown-file': 404,
  'demo/bad-range': 416,
};

const MAX_BODY = 32 << 20;

/** A failure as a response: its wire form as JSON, with the status that fits its code. */
export function failureResponse(error: unknown): Response {
  const status = isFailure(error) ? (STATUS[error.code] ?? 400) : 500;
  return Response.json(failureToWire(error), { status });
}

/** @throws Failure `json/*` where the body is no JSON that fits, or too long */
export async function readBody<Schema extends z.ZodType>(request: Request, schema: Schema): Promise<z.output<Schema>> {
  const text = await request.text();
  if (text.length > MAX_BODY) throw new Failure('json/malformed', { file: request.url, line: 1, what: 'TooLong' });
  return parseJson(text, schema, 'request body');
}

/**
 * Bytes of a file, whole or one range of it (RFC 9110), with the SHA-256 as ETag.
 * @param read makes the bytes `[start, end)`
 * @throws Failure `demo/bad-range` for a range that the file does not have
 */
export function fileResponse(
  request: Request,
  file: { path: string; size: number; sha256: string },
  read: (start: number, end: number) => Uint8Array<ArrayBuffer>,
): Response {
  const { path, size, sha256 } = file;
  const etag = `"${sha256}"`;
  const headers = {
    ETag: etag,
    'Accept-Ranges': 'bytes',
    'Content-Type': 'application/octet-stream',
    'Cache-Control': 'no-store, no-transform',
  };
  if (request.headers.get('If-None-Match') === etag) return new Response(null, { status: 304, headers });
  const asked = request.headers.get('Range');
  const condition = request.headers.get('If-Range');
  if (!asked || (condition !== null && condition !== etag)) return new Response(read(0, size), { headers });
  const range = /^bytes=(\d+)-(\d*)$/.exec(asked);
  const start = Number(range?.[1] ?? NaN);
  const end = range?.[2] ? Number(range[2]) + 1 : size;
  if (!range || start >= end || end > size) {
    throw new Failure('demo/bad-range', { path, found: asked, expected: `within 0 to ${size}` });
  }
  return new Response(read(start, end), {
    status: 206,
    headers: { ...headers, 'Content-Range': `bytes ${start}-${end - 1}/${size}` },
  });
}
