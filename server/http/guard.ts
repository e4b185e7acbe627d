import { Failure } from '#core/failure';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

/** Whether a request names this machine: a name that is bent to it from elsewhere does not count. */
export const isOwnHost = (host: string | null | undefined): boolean =>
  LOOPBACK.has((host ?? '').replace(/:\d+$/, '').toLowerCase());

/** @throws Failure `request/foreign` */
export function assertOwnHost(request: Request): void {
  if (!isOwnHost(request.headers.get('Host'))) throw new Failure('request/foreign', { what: 'Host' });
}

/**
 * Lets only the page of this very server ask, and programs that are no page at all.
 * @throws Failure `request/foreign` with the header that tells
 */
export function assertOwnPage(request: Request): void {
  const host = request.headers.get('Host') ?? '';
  const origin = request.headers.get('Origin');
  if (origin !== null && origin !== `http://${host}`) throw new Failure('request/foreign', { what: 'Origin' });
  const site = request.headers.get('Sec-Fetch-Site');
  // An address that somebody types into the browser comes from nowhere.
  if (site !== null && site !== 'same-origin' && site !== 'none') {
    throw new Failure('request/foreign', { what: 'Sec-Fetch-Site' });
  }
}

/** @throws Failure `request/method` with those that are allowed */
export function assertMethod(request: Request, ...allowed: readonly string[]): void {
  if (!allowed.includes(request.method)) {
    throw new Failure('request/method', { found: request.method, expected: allowed.join(', ') });
  }
}
