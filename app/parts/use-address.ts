import { useLocation, useNavigate, useNavigation, type ShouldRevalidateFunctionArgs } from 'react-router';

export interface Address {
  get(name: string): string | undefined;
  /** The address with some parameters changed; undefined takes one out. */
  with(changes: Record<string, string | undefined>): string;
  /** Goes there without a new entry in the history. */
  set(changes: Record<string, string | undefined>): void;
}

/**
 * What the page looks at stands in the address, so that reload, back and a copied link show the same. While another
 * page is being opened its address counts already: a click made meanwhile adds to it and does not call it off.
 */
export function useAddress(): Address {
  const here = useLocation();
  const { location: coming } = useNavigation();
  const navigate = useNavigate();
  const { pathname, search } = coming ?? here;
  const changed = (changes: Record<string, string | undefined>): string => {
    const parameters = new URLSearchParams(search);
    for (const [name, value] of Object.entries(changes)) {
      if (value === undefined || value === '') parameters.delete(name);
      else parameters.set(name, value);
    }
    const query = parameters.toString();
    return query === '' ? pathname : `${pathname}?${query}`;
  };
  return {
    get: (name) => new URLSearchParams(search).get(name) ?? undefined,
    with: changed,
    set: (changes) => void navigate(changed(changes), { replace: true, preventScrollReset: true }),
  };
}

/** Looking at something else on the same page needs no new data; a change of the store or of the page does. */
export function unlessOnlyLookedAt(next: ShouldRevalidateFunctionArgs): boolean {
  const { currentUrl, nextUrl, formMethod, defaultShouldRevalidate } = next;
  const samePage = currentUrl.pathname === nextUrl.pathname && formMethod === undefined;
  return samePage && currentUrl.search !== nextUrl.search ? false : defaultShouldRevalidate;
}
