import { SERVED_TOKEN_HEADER, ServedRootsSchema } from '#core/served';
import { parseJson } from '#core/json';
import { request } from './http';

const KEY = 'regressum-served-token';

/** The token of the server's start, as far as this browser was told; an old one is refused and asked for again. */
export const servedToken = (): string => localStorage.getItem(KEY) ?? '';

/**
 * Asks which folders are served, and remembers the token when it is right.
 * @throws Failure `served/off`, `served/refused`
 */
export async function servedRoots(token: string): Promise<readonly string[]> {
  const url = '/served/roots';
  const response = await request(url, { headers: { [SERVED_TOKEN_HEADER]: token } });
  const { roots } = parseJson(await response.text(), ServedRootsSchema, url);
  localStorage.setItem(KEY, token);
  return roots;
}
