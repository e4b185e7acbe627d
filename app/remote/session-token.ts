import { DEPOT_SERVICE } from './services';

/** Stands for this page's own origin, which no address names. */
const HERE = 'http://here.invalid';

/** Whether an address is one of the service that wants a sign-in. */
export function asksSignIn(href: string): boolean {
  const { origin, pathname } = new URL(href, HERE);
  return origin === HERE && pathname.startsWith(DEPOT_SERVICE);
}

/**
 * The token to send to an address: that of a sign-in goes to the service that gave it, and to nothing else, wherever an index
 * says that files are.
 */
export const tokenFor = (href: string, token: string | undefined): string | undefined =>
  asksSignIn(href) ? token : undefined;
