export const TOKEN_KEY = 'regressum-served-token';

/** What a worker was told; a page has it from its tab. */
let told: string | undefined;

/** The token of the server's start, as far as this tab was told; an old one is refused and asked for again. */
export const servedToken = (): string =>
  told ?? (typeof sessionStorage === 'undefined' ? '' : (sessionStorage.getItem(TOKEN_KEY) ?? ''));

/** Tells a worker the token of its page. */
export const tellServedToken = (token: string): void => void (told = token);

/**
 * Takes the token out of the address that the start of the server printed, so that it is in no history, copied link or
 * record.
 */
export function takeTokenFromAddress(): void {
  const token = new URLSearchParams(location.hash.slice(1)).get('token');
  if (!token) return;
  sessionStorage.setItem(TOKEN_KEY, token);
  history.replaceState(history.state, '', location.pathname + location.search);
}
