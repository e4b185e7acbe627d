import type { ComponentPropsWithoutRef, MouseEvent } from 'react';
import { type Changes, useAddress } from './use-address';

/** A link that shows something else on the same page; opened in a new tab it shows the same there. */
export function LookLink({ changes, ...rest }: { changes: Changes } & Omit<ComponentPropsWithoutRef<'a'>, 'href'>) {
  const address = useAddress();
  const look = (event: MouseEvent): void => {
    if (event.metaKey || event.ctrlKey || event.shiftKey || event.altKey) return;
    event.preventDefault();
    address.set(changes);
  };
  return <a {...rest} href={address.with(changes)} onClick={look} />;
}
