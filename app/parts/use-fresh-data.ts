import { useEffect } from 'react';
import { useRevalidator } from 'react-router';
import { listen } from '~/store';

/** Changes of the store that the page has not read yet. */
let due = 0;

/** Whether the store has changed since the page was read: then looking at something else reads it anew too. */
export const isFreshDataDue = (): boolean => due > 0;

/** When the store changes, in this tab or another, the page asks again. */
export function useFreshData(): void {
  const { revalidate } = useRevalidator();
  useEffect(
    () =>
      listen((message) => {
        if (message.type !== 'changed') return;
        due += 1;
        // A click meanwhile calls the asking off, and ends it with its own.
        void revalidate().finally(() => (due -= 1));
      }),
    [revalidate],
  );
}
