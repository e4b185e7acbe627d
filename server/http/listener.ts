import type { IncomingMessage, RequestListener, ServerResponse } from 'node:http';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import type { ReadableStream as NodeStream } from 'node:stream/web';
import { Failure } from '#core/failure';
import { failureResponse } from './failures';

/** Bytes of a body that nobody reads which are taken all the same, so that the connection goes on. */
const TAKEN_UNREAD = 16 * 1024;

/**
 * A request as the platform has it, whose body is read no faster than it is taken.
 * @throws Failure `request/malformed` for an address or a method that is none
 */
function requestOf(message: IncomingMessage, signal: AbortSignal): Request {
  try {
    return platformRequest(message, signal);
  } catch (cause) {
    throw new Failure('request/malformed', { found: message.url, what: 'address' }, { cause });
  }
}

function platformRequest(message: IncomingMessage, signal: AbortSignal): Request {
  const headers = new Headers();
  for (const [name, value] of Object.entries(message.headers)) {
    for (const one of [value ?? []].flat()) headers.append(name, one);
  }
  const { method = 'GET', url = '/' } = message;
  const hasBody = method !== 'GET' && method !== 'HEAD';
  return new Request(new URL(`http://${message.headers.host ?? 'localhost'}${url}`), {
    method,
    headers,
    signal,
    ...(hasBody && { body: Readable.toWeb(message) as ReadableStream, duplex: 'half' }),
  });
}

/** Whether what is still to come of a request, whether it is read or not, is over soon. */
const endsSoon = ({ complete, headers }: IncomingMessage): boolean =>
  complete || Number(headers['content-length'] ?? Infinity) <= TAKEN_UNREAD;

async function send(message: IncomingMessage, answer: ServerResponse, response: Response): Promise<void> {
  for (const [name, value] of response.headers) answer.appendHeader(name, value);
  // A client that goes on sending what nobody reads is not listened to, and is told so: it might ask for the next thing there.
  if (!endsSoon(message)) answer.setHeader('Connection', 'close');
  answer.writeHead(response.status);
  if (!response.body || message.method === 'HEAD') {
    await response.body?.cancel();
    answer.end();
  } else {
    // What breaks off under way is broken off for the client too, so that it never takes a part for the whole.
    await pipeline(Readable.fromWeb(response.body as NodeStream), answer).catch(() => answer.destroy());
  }
  message.resume();
}

/** Serves a handler of requests through Node's server; whatever it throws becomes an answer. */
export function listener(handle: (request: Request) => Promise<Response>): RequestListener {
  return (message, answer) => {
    const gone = new AbortController();
    answer.once('close', () => gone.abort());
    const work = async (): Promise<void> => {
      let response: Response;
      try {
        response = await handle(requestOf(message, gone.signal));
      } catch (error) {
        response = failureResponse(error);
      }
      if (answer.destroyed) await response.body?.cancel();
      else await send(message, answer, response);
    };
    work().catch((error: unknown) => {
      console.error(error);
      answer.destroy();
    });
  };
}
