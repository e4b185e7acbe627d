import { lookup } from 'node:dns/promises';
import { type IncomingMessage, request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import { isIP } from 'node:net';
import { Readable } from 'node:stream';
import { Failure } from '#core/failure';
import { addressOfFrom, type Trust } from '#core/sources';
import { isPrivate } from './private-address';

/*
 * Asks sources elsewhere on behalf of the page, which may connect to nobody else. What comes is passed on as bytes, never as
 * something that a browser would show.
 */

/** Nobody has to wait longer for an answer to begin, or for more of it. */
const SILENCE_MS = 30_000;
const MAX_REDIRECTS = 5;

export interface FromLimits {
  /** Milliseconds without a byte. */
  readonly silence?: number;
}

/** An address of the network, which stays the same however often the name is asked for. */
interface Pinned {
  readonly address: string;
  readonly family: 4 | 6;
}

/**
 * Looks a host up once: who is asked is decided then, so that a name cannot be bent to another address afterwards.
 * @throws Failure `source/private`, `service/unreachable`
 */
async function pinned({ hostname, href }: URL, trust: Trust): Promise<Pinned> {
  const host = hostname.replace(/^\[|\]$/g, '');
  const all = isIP(host)
    ? [{ address: host, family: isIP(host) }]
    : await lookup(host, { all: true }).catch((cause: unknown) => {
        throw new Failure('service/unreachable', { url: href }, { cause });
      });
  const allowed = trust === 'typed' ? all : all.filter(({ address }) => !isPrivate(address));
  const [first] = allowed;
  if (!first) throw new Failure('source/private', { url: href });
  return { address: first.address, family: first.family === 6 ? 6 : 4 };
}

/** What of a request is passed on: which bytes are wanted, and whether they changed. */
const PASSED_ON = ['range', 'if-range', 'if-none-match', 'if-match'] as const;
/** What of an answer is. */
const PASSED_BACK = ['content-length', 'content-range', 'accept-ranges', 'etag', 'last-modified'] as const;

function ask(url: URL, { address, family }: Pinned, request: Request, silence: number): Promise<IncomingMessage> {
  const send = url.protocol === 'https:' ? httpsRequest : httpRequest;
  const headers: Record<string, string> = { 'accept-encoding': 'identity', 'user-agent': 'Regressum' };
  for (const name of PASSED_ON) {
    const value = request.headers.get(name);
    if (value !== null) headers[name] = value;
  }
  return new Promise((resolve, reject) => {
    const asked = send(
      url,
      {
        method: request.method,
        headers,
        agent: false,
        signal: request.signal,
        timeout: silence,
        lookup: (_host, { all }, done) => (all ? done(null, [{ address, family }]) : done(null, address, family)),
      },
      resolve,
    );
    asked.on('timeout', () => asked.destroy(new Error('no answer in time')));
    asked.on('error', (cause) => reject(new Failure('service/unreachable', { url: url.href }, { cause })));
    asked.end();
  });
}

/** Where a redirect leads. @throws Failure `source/redirected` where that is another host, or too many follow one another */
function redirected(from: URL, to: string, times: number): URL {
  const url = URL.canParse(to, from.href) ? new URL(to, from.href) : undefined;
  const isSame = url?.hostname === from.hostname && (url.protocol === from.protocol || url.protocol === 'https:');
  if (!url || !isSame || url.username !== '' || times >= MAX_REDIRECTS)
    throw new Failure('source/redirected', { url: from.href, found: to });
  return url;
}

/**
 * Ends an answer that says nothing for too long, or more than it announced; one that says less is broken off too, so that
 * nobody takes a part for the whole.
 */
function watched(answer: IncomingMessage, silence: number): ReadableStream {
  const announced = answer.headers['content-length'];
  let left = announced === undefined ? Infinity : Number(announced);
  answer.setTimeout(silence, () => answer.destroy(new Error('no more bytes in time')));
  const counted = new TransformStream<Uint8Array, Uint8Array>({
    transform(chunk, controller) {
      left -= chunk.length;
      if (left < 0) throw new Error('more bytes than announced');
      controller.enqueue(chunk);
    },
    flush() {
      if (left !== Infinity && left > 0) throw new Error('fewer bytes than announced');
    },
  });
  return (Readable.toWeb(answer) as ReadableStream<Uint8Array>).pipeThrough(counted);
}

/**
 * Answers a request of the page for an address elsewhere.
 * @param pathAndSearch of the request, as it was written
 * @throws Failure `source/*`, `service/unreachable`, `service/failed` with the status, `request/malformed`
 */
export async function answerFrom(
  request: Request,
  pathAndSearch: string,
  { silence = SILENCE_MS }: FromLimits = {},
): Promise<Response> {
  const asked = addressOfFrom(pathAndSearch);
  if (!asked) throw new Failure('request/malformed', { what: 'address', found: pathAndSearch });
  let url = new URL(asked.url.href);
  for (let times = 0; ; times++) {
    const answer = await ask(url, await pinned(url, asked.trust), request, silence);
    const { statusCode: status = 0, headers } = answer;
    if (status >= 300 && status < 400 && status !== 304 && headers.location !== undefined) {
      answer.destroy();
      url = redirected(url, headers.location, times);
      continue;
    }
    if (status !== 200 && status !== 206 && status !== 304) {
      answer.destroy();
      throw new Failure('service/failed', { url: url.href, status });
    }
    const back = new Headers({
      // Whatever it says it is: here it is bytes, which no browser shows as a page.
      'Content-Type': 'application/octet-stream',
      'Content-Disposition': 'attachment',
      'Content-Security-Policy': "default-src 'none'; sandbox",
      'Cache-Control': 'no-store',
    });
    for (const name of PASSED_BACK) {
      const value = headers[name];
      if (value !== undefined) back.set(name, value);
    }
    const hasBody = request.method !== 'HEAD' && status !== 304;
    if (!hasBody) answer.destroy();
    return new Response(hasBody ? watched(answer, silence) : null, { status, headers: back });
  }
}
