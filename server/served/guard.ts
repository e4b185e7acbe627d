import { timingSafeEqual } from 'node:crypto';
import { Failure } from '#core/failure';
import { SERVED_TOKEN_HEADER } from '#core/served';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

const sameText = (a: string, b: string): boolean =>
  a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/**
 * Lets only the page of this very server ask for files: by a name of this machine (so that a name that is bent to it
 * from elsewhere does not count), from its own origin, and with the token of this start.
 * @throws Failure `served/off` where no folder is served, `served/refused` with what was wrong
 */
export function assertAllowed(request: Request, token: string | undefined): void {
  if (!token) throw new Failure('served/off');
  const host = request.headers.get('Host') ?? '';
  if (!LOOPBACK.has(host.replace(/:\d+$/, ''))) throw new Failure('served/refused', { what: 'Host' });
  const origin = request.headers.get('Origin');
  if (origin !== null && origin !== `http://${host}`) throw new Failure('served/refused', { what: 'Origin' });
  const site = request.headers.get('Sec-Fetch-Site');
  if (site !== null && site !== 'same-origin') throw new Failure('served/refused', { what: 'Origin' });
  if (!sameText(request.headers.get(SERVED_TOKEN_HEADER) ?? '', token)) {
    throw new Failure('served/refused', { what: 'token' });
  }
}
