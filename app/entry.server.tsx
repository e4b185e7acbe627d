import { randomBytes } from 'node:crypto';
import { PassThrough } from 'node:stream';
import { createReadableStreamFromReadable } from '@react-router/node';
import { isbot } from 'isbot';
import { renderToPipeableStream } from 'react-dom/server';
import { type EntryContext, ServerRouter } from 'react-router';
import { pagePolicy } from '../server/http/policy';
import { worldCookie } from '../server/stand-ins/outside-world';
import { NonceContext } from './root';

const ABORT_AFTER_MS = 5000;

export default function handleRequest(
  request: Request,
  status: number,
  headers: Headers,
  context: EntryContext,
): Promise<Response> {
  const nonce = randomBytes(16).toString('base64');
  headers.set('Content-Type', 'text/html');
  headers.set('Content-Security-Policy', pagePolicy(nonce));
  const cookie = worldCookie(request);
  if (cookie) headers.append('Set-Cookie', cookie);
  return new Promise((resolve, reject) => {
    const ready = isbot(request.headers.get('user-agent') ?? '') ? 'onAllReady' : 'onShellReady';
    const { pipe, abort } = renderToPipeableStream(
      <NonceContext.Provider value={nonce}>
        <ServerRouter context={context} url={request.url} nonce={nonce} />
      </NonceContext.Provider>,
      {
        nonce,
        [ready]() {
          const body = new PassThrough();
          resolve(new Response(createReadableStreamFromReadable(body), { status, headers }));
          pipe(body);
        },
        onShellError: reject,
      },
    );
    setTimeout(abort, ABORT_AFTER_MS);
  });
}
