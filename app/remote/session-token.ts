import { DEPOT_SERVICE } from './services';

/** Stands for this page's own origin, which no address names. */
const HERE = 'http://here.invalid';

/**
 * The token to send to an address: that of a sign-in goes to the service that gave it, and to nothing else, wherever an index
 * says that files are.
 */
export function tokenFor(href: string, token: string | undefined): string | undefined {
  const { origin, pathname } = new URL(href, HERE);
  return origin === HERE && pathname.startsWith(DEPOT_SERVICE) ? token : undefined;
}
