import type { z } from 'zod';
import { Failure } from '#core/failure';
import { parseJson } from '#core/json';

/**
 * Reads a request's body as JSON that fits a schema. Reading stops at the limit: whatever comes behind it is never held.
 * @param limit bytes
 * @throws Failure `request/too-long`, `json/*` where the body is no JSON that fits, `list/encoding` where it is not UTF-8
 */
export async function readBody<Schema extends z.ZodType>(
  request: Request,
  schema: Schema,
  limit: number,
): Promise<z.output<Schema>> {
  const bytes = await readBytes(request, limit);
  let text: string;
  try {
    text = new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch (cause) {
    throw new Failure('list/encoding', { file: 'request body', line: 1 }, { cause });
  }
  return parseJson(text, schema, 'request body');
}

/**
 * Reads a request's body, up to the limit.
 * @param limit bytes
 * @throws Failure `request/too-long`
 */
export async function readBytes(request: Request, limit: number): Promise<Uint8Array<ArrayBuffer>> {
  const tooLong = new Failure('request/too-long', { limit });
  if (Number(request.headers.get('Content-Length')) > limit) throw tooLong;
  const chunks: Uint8Array[] = [];
  let length = 0;
  for await (const chunk of request.body ?? []) {
    length += (chunk as Uint8Array).length;
    // Leaving the loop cancels the stream, and with it the connection.
    if (length > limit) throw tooLong;
    chunks.push(chunk as Uint8Array);
  }
  return new Uint8Array(Buffer.concat(chunks));
}
