import { SERVED_TOKEN_HEADER, ServedRootsSchema } from '#core/served';
import { parseJson } from '#core/json';
import { request } from './http';

const KEY = 'regressum-served-token';

/** What a worker was told; a page has it from its tab. */
let told: string | undefined;

/** The token of the server's start, as far as this tab was told; an old one is refused and asked for again. */
export const servedToken = (): string =>
  told ?? (typeof sessionStorage === 'undefined' ? '' : (sessionStorage.getItem(KEY) ?? ''));

/** Tells a worker the token of its page. */
export const tellServedToken = (token: string): void => void (told = token);

/**
 * Takes the token out of the address that the start of the server printed, so that it is in no history, copied link or
 * record.
 */
export function takeTokenFromAddress(): void {
  const token = new URLSearchParams(location.hash.slice(1)).get('token');
  if (!token) return;
  sessionStorage.setItem(KEY, token);
  history.replaceState(history.state, '', location.pathname + location.search);
}

/**
 * Asks which folders are served, and remembers the token when it is right.
 * @throws Failure `served/off`, `served/refused`
 */
export async function servedRoots(token: string): Promise<readonly string[]> {
  const url = '/served/roots';
  const response = await request(url, { headers: { [SERVED_TOKEN_HEADER]: token } });
  const { roots } = parseJson(await response.text(), ServedRootsSchema, url);
  sessionStorage.setItem(KEY, token);
  return roots;
}
