import { useEffect } from 'react';
import { useRevalidator } from 'react-router';
import { listen } from '~/store';

/** When the store changes, in this tab or another, the page asks again. */
export function useFreshData(): void {
  const { revalidate } = useRevalidator();
  useEffect(() => listen((message) => void (message.type === 'changed' && revalidate())), [revalidate]);
}
