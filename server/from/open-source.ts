import { Failure, failureFromWire, isFailure, WireFailureSchema } from '#core/failure';
import { type BringPorts, isRangeAnswer } from '#core/fetch';
import { FROM } from '#core/sources';
import { answerFrom } from './from';

/** How the server's own addresses are asked, on behalf of the page. */
export interface OwnService {
  readonly origin: string;
  readonly headers: Readonly<Record<string, string>>;
}

/** The page asks by addresses of the server's own: what lies elsewhere is named below one of them. */
async function answerOf(href: string, { origin, headers }: OwnService, init: RequestInit): Promise<Response> {
  if (href.startsWith(`/${FROM}/`)) return answerFrom(new Request(origin + href, init), href);
  if (!href.startsWith('/') || href.startsWith('//'))
    throw new Failure('request/malformed', { what: 'address', found: href });
  const response = await fetch(origin + href, { ...init, headers: { ...headers, ...init.headers } });
  if (response.ok) return response;
  const wire = WireFailureSchema.safeParse(await response.json().catch(() => undefined));
  throw wire.success
    ? failureFromWire(wire.data)
    : new Failure('service/failed', { url: href, status: response.status });
}

/** Files, or parts of them, as they come from where the page would ask for them. */
export const openSource =
  (own: OwnService, signal: AbortSignal): BringPorts['open'] =>
  async (href, range) => {
    const headers: Record<string, string> = range ? { Range: `bytes=${range.start}-${range.end - 1}` } : {};
    let response: Response;
    try {
      response = await answerOf(href, own, { headers, signal });
    } catch (error) {
      if (signal.aborted) throw new Failure('job/cancelled', {}, { cause: error });
      throw isFailure(error) ? error : new Failure('service/unreachable', { url: href }, { cause: error });
    }
    if (range && !isRangeAnswer(response.status, response.headers.get('Content-Range'), range.start)) {
      await response.body?.cancel();
      throw new Failure('service/no-ranges', { url: href });
    }
    return chunksOf(response, href, signal);
  };

/** @throws Failure `service/unreachable` where it breaks off, `job/cancelled` */
async function* chunksOf(
  { body }: Response,
  url: string,
  signal: AbortSignal,
): AsyncGenerator<Uint8Array<ArrayBuffer>> {
  try {
    for await (const chunk of body ?? []) yield chunk as Uint8Array<ArrayBuffer>;
  } catch (error) {
    if (signal.aborted) throw new Failure('job/cancelled', {}, { cause: error });
    throw new Failure('service/unreachable', { url }, { cause: error });
  }
}
