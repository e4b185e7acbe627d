import { SERVED_TOKEN_HEADER, ServedRootsSchema } from '#core/served';
import { parseJson } from '#core/json';
import { request } from './http';
import { TOKEN_KEY } from './token';

/**
 * Asks which folders are served, and remembers the token when it is right.
 * @throws Failure `served/off`, `served/refused`
 */
export async function servedRoots(token: string): Promise<readonly string[]> {
  const url = '/served/roots';
  const response = await request(url, { headers: { [SERVED_TOKEN_HEADER]: token } });
  const { roots } = parseJson(await response.text(), ServedRootsSchema, url);
  sessionStorage.setItem(TOKEN_KEY, token);
  return roots;
}
