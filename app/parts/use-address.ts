import { useCallback, useContext } from 'react';
import {
  type ShouldRevalidateFunctionArgs,
  UNSAFE_DataRouterContext as DataRouterContext,
  useLocation,
  useNavigate,
  useNavigation,
} from 'react-router';
import { isFreshDataDue } from './use-fresh-data';

/** Parameters of the address with their new values; undefined takes one out. */
export type Changes = Readonly<Record<string, string | undefined>>;

export interface Address {
  get(name: string): string | undefined;
  /** The address with some parameters changed. */
  with(changes: Changes): string;
  /** Goes there without a new entry in the history. Always the same function. */
  set(changes: Changes): void;
}

interface Place {
  readonly pathname: string;
  readonly search: string;
}

function changed({ pathname, search }: Place, changes: Changes): string {
  const parameters = new URLSearchParams(search);
  for (const [name, value] of Object.entries(changes)) {
    if (value === undefined || value === '') parameters.delete(name);
    else parameters.set(name, value);
  }
  const query = parameters.toString();
  return query === '' ? pathname : `${pathname}?${query}`;
}

/**
 * What the page looks at stands in the address, so that reload, back and a copied link show the same. While another
 * page is being opened its address counts already: a click made meanwhile adds to it and does not call it off.
 */
export function useAddress(): Address {
  const here = useLocation();
  const { location: coming } = useNavigation();
  const navigate = useNavigate();
  const { router } = useContext(DataRouterContext)!;
  const shown = coming ?? here;
  const set = useCallback(
    (changes: Changes): void => {
      // What was drawn last may be older than the address: of two quick clicks the second must not take the first back.
      const { navigation, location } = router.state;
      const to = changed(navigation.location ?? location, changes);
      void navigate(to, { replace: true, preventScrollReset: true, flushSync: true });
    },
    [router, navigate],
  );
  return {
    get: (name) => new URLSearchParams(shown.search).get(name) ?? undefined,
    with: (changes) => changed(shown, changes),
    set,
  };
}

/** Looking at something else on the same page needs no new data; a change of the store or of the page does. */
export function unlessOnlyLookedAt(next: ShouldRevalidateFunctionArgs): boolean {
  const { currentUrl, nextUrl, formMethod, defaultShouldRevalidate } = next;
  const samePage = currentUrl.pathname === nextUrl.pathname && formMethod === undefined;
  return samePage && currentUrl.search !== nextUrl.search && !isFreshDataDue() ? false : defaultShouldRevalidate;
}
