import type { z } from 'zod';
import { Failure, failureFromWire, isFailure, WireFailureSchema } from '#core/failure';
import { isRangeAnswer } from '#core/fetch';
import { parseJson } from '#core/json';
import { SERVED_TOKEN_HEADER } from '#core/served';
import { FROM } from '#core/sources';
import { servedToken } from './token';

/** Whether an address is one elsewhere, for which the page's own server is asked. */
const isFrom = (url: string): boolean => url.startsWith(`/${FROM}/`);

/** Whoever asks the server for more than its pages has to know the token of its start. */
const tokenHeaders = (): Record<string, string> => ({ [SERVED_TOKEN_HEADER]: servedToken() });

async function failureOf(response: Response, url: string): Promise<Failure> {
  const wire = WireFailureSchema.safeParse(await response.json().catch(() => undefined));
  if (wire.success) return failureFromWire(wire.data);
  return new Failure('service/failed', { url, status: response.status });
}

/**
 * A request to one of the services, answered only when it went well.
 * @throws Failure `service/*`, `job/cancelled` when `signal` stopped it
 */
export async function request(url: string, init: RequestInit = {}): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(url, isFrom(url) ? { ...init, headers: { ...init.headers, ...tokenHeaders() } } : init);
  } catch (error) {
    if (init.signal?.aborted) throw new Failure('job/cancelled', {}, { cause: error });
    throw new Failure('service/unreachable', { url }, { cause: error });
  }
  if (!response.ok) throw await failureOf(response, url);
  return response;
}

/** Bytes of an answer as they come. @throws Failure `source/not-as-expected` behind `most` of them, `service/unreachable` where it breaks off */
async function* atMost(response: Response, url: string, most: number): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  let read = 0;
  try {
    for await (const chunk of response.body as unknown as AsyncIterable<Uint8Array<ArrayBuffer>>) {
      read += chunk.length;
      if (read > most)
        throw new Failure('source/not-as-expected', { url, what: 'text', found: `more than ${most >> 20} MiB came` });
      yield chunk;
    }
  } catch (error) {
    if (isFailure(error)) throw error;
    throw new Failure('service/unreachable', { url }, { cause: error });
  }
}

/**
 * The text of an answer.
 * @param most bytes; nothing longer is read
 * @throws Failure `source/not-as-expected`, `service/unreachable` where it breaks off
 */
export async function readText(response: Response, url: string, most: number): Promise<string> {
  const decoder = new TextDecoder('utf-8');
  let text = '';
  for await (const chunk of atMost(response, url, most)) text += decoder.decode(chunk, { stream: true });
  return text + decoder.decode();
}

/**
 * The text of an answer that may be in gzip, whether or not whoever sent it says so.
 * @param most bytes of the text; nothing longer is read or unpacked
 * @throws Failure as {@link readText}
 */
export async function readPackedText(response: Response, url: string, most: number): Promise<string> {
  const chunks: Uint8Array<ArrayBuffer>[] = [];
  for await (const chunk of atMost(response, url, most)) chunks.push(chunk);
  const blob = new Blob(chunks);
  const [first, second] = new Uint8Array(await blob.slice(0, 2).arrayBuffer());
  const isGzip = first === 0x1f && second === 0x8b;
  const stream = isGzip ? blob.stream().pipeThrough(new DecompressionStream('gzip')) : blob.stream();
  try {
    return await readText(new Response(stream), url, most);
  } catch (error) {
    if (!isFailure(error, 'service/unreachable')) throw error;
    throw new Failure('source/not-as-expected', { url, what: 'text', found: 'broken gzip' }, { cause: error });
  }
}

/** @throws Failure as {@link request}, and `json/*` for an answer that does not fit */
export async function getJson<Schema extends z.ZodType>(url: string, schema: Schema): Promise<z.output<Schema>> {
  return parseJson(await (await request(url)).text(), schema, url);
}

export async function postJson<Schema extends z.ZodType>(
  url: string,
  body: unknown,
  schema: Schema,
): Promise<z.output<Schema>> {
  const init = { method: 'POST', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) };
  return parseJson(await (await request(url, init)).text(), schema, url);
}

/** What a request for a file, or for bytes `[start, end)` of it, carries. */
function headersFor(range: { start: number; end: number } | undefined, token: string | undefined) {
  return {
    ...(range && { Range: `bytes=${range.start}-${range.end - 1}` }),
    ...(token && { Authorization: `Bearer ${token}` }),
  };
}

/**
 * A file as it comes, or bytes `[start, end)` of it.
 * @throws Failure as {@link request}; `service/no-ranges` where a part was asked for and something else came
 */
export async function getStream(
  url: string,
  {
    range,
    token,
    signal,
  }: {
    range?: { start: number; end: number } | undefined;
    token?: string | undefined;
    signal?: AbortSignal | undefined;
  },
): Promise<AsyncIterable<Uint8Array<ArrayBuffer>>> {
  const response = await request(url, { headers: headersFor(range, token), ...(signal ? { signal } : {}) });
  if (range && !isRangeAnswer(response.status, response.headers.get('Content-Range'), range.start)) {
    await response.body?.cancel();
    throw new Failure('service/no-ranges', { url });
  }
  return chunksOf(response, url, signal);
}

/** @throws Failure `service/unreachable` where it breaks off, `job/cancelled` */
async function* chunksOf(
  response: Response,
  url: string,
  signal: AbortSignal | undefined,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  const reader = response.body?.getReader();
  if (!reader) return;
  try {
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return;
      yield value;
    }
  } catch (error) {
    if (signal?.aborted) throw new Failure('job/cancelled', {}, { cause: error });
    throw new Failure('service/unreachable', { url }, { cause: error });
  } finally {
    // Whoever has enough of it lets it go.
    await reader.cancel().catch(() => undefined);
  }
}

/**
 * Bytes `[start, end)` of a file, or all of it.
 * @throws Failure as {@link getStream}; Failure `service/failed` too when the service sent another number of bytes than was asked for
 */
export async function getBytes(
  url: string,
  size: number,
  {
    start = 0,
    end = size,
    token,
    signal,
  }: { start?: number; end?: number; token?: string | undefined; signal?: AbortSignal },
): Promise<Uint8Array<ArrayBuffer>> {
  const range = start > 0 || end < size ? { start, end } : undefined;
  return readBytes(await getStream(url, { range, token, signal }), url, end - start);
}

/** Just so many bytes of an answer; who sends more is not listened to any longer. */
async function readBytes(
  chunks: AsyncIterable<Uint8Array<ArrayBuffer>>,
  url: string,
  size: number,
): Promise<Uint8Array<ArrayBuffer>> {
  const bytes = new Uint8Array(size);
  let found = 0;
  for await (const chunk of chunks) {
    if (found + chunk.length <= size) bytes.set(chunk, found);
    found += chunk.length;
    if (found > size) break;
  }
  if (found !== size) throw new Failure('service/failed', { url, expected: size, found });
  return bytes;
}

/** Asks the storefront for the bytes of several files after one another. @throws Failure as {@link getBytes} */
export async function getPack(
  hrefs: readonly string[],
  size: number,
  signal: AbortSignal,
): Promise<Uint8Array<ArrayBuffer>> {
  const url = '/stand-ins/storefront/pack';
  const response = await request(url, { method: 'POST', body: JSON.stringify({ hrefs }), signal });
  return readBytes(chunksOf(response, url, signal), url, size);
}
