import { z } from 'zod';
import { Failure, FAILURE_CODES, failureFromWire, type WireFailure } from '#core/failure';
import { parseJson } from '#core/json';

const WireFailureSchema: z.ZodType<WireFailure> = z.object({
  code: z.enum(FAILURE_CODES),
  facts: z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.undefined()])),
  cause: z.lazy(() => WireFailureSchema).optional(),
}) as z.ZodType<WireFailure>;

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
    response = await fetch(url, init);
  } catch (error) {
    if (init.signal?.aborted) throw new Failure('job/cancelled', {}, { cause: error });
    throw new Failure('service/unreachable', { url }, { cause: error });
  }
  if (!response.ok) throw await failureOf(response, url);
  return response;
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

/**
 * Bytes `[start, end)` of a file, or all of it.
 * @throws Failure `service/failed` too when the service sent another number of bytes than was asked for
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
  const headers: Record<string, string> = {};
  if (start > 0 || end < size) headers.Range = `bytes=${start}-${end - 1}`;
  if (token) headers.Authorization = `Bearer ${token}`;
  const response = await request(url, { headers, ...(signal ? { signal } : {}) });
  return readBytes(response, url, end - start, signal);
}

async function readBytes(
  response: Response,
  url: string,
  size: number,
  signal: AbortSignal | undefined,
): Promise<Uint8Array<ArrayBuffer>> {
  let bytes: Uint8Array<ArrayBuffer>;
  try {
    bytes = new Uint8Array(await response.arrayBuffer());
  } catch (error) {
    if (signal?.aborted) throw new Failure('job/cancelled', {}, { cause: error });
    throw new Failure('service/unreachable', { url }, { cause: error });
  }
  if (bytes.length !== size) {
    throw new Failure('service/failed', { url, expected: size, found: bytes.length });
  }
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
  return readBytes(response, url, size, signal);
}
