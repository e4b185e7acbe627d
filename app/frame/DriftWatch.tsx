import { useEffect, useEffectEvent } from 'react';
import { lookForDrift } from '~/commands';
import { unlessFailure } from '~/parts/failure-words';
import type { Install } from '~/store';

const CLOCK_MS = 60_000;
/** After something was noticed, so that what still goes on comes to its end. */
const SETTLE_MS = 1_500;
/** Of the time, looking takes at most one part in so many. */
const SHARE = 20;

/** Chromium's observer of folders; not yet in the DOM library. */
interface FolderObserver {
  observe(handle: FileSystemDirectoryHandle, options: { recursive: boolean }): Promise<void>;
  disconnect(): void;
}
declare global {
  interface Window {
    readonly FileSystemObserver?: new (changed: () => void) => FolderObserver;
  }
}

/**
 * Notices by itself that somebody else changes the folder: as soon as it is there, when one comes back to it, by the clock while
 * it is in sight, and at once where the platform tells. One page at a time looks.
 */
export default function DriftWatch({ install }: { install: Install }) {
  const { id, place } = install;
  const canBeLookedAt = place.kind !== 'handed' && place.kind !== 'list';
  const picked = place.kind === 'picked' ? place.handle : undefined;
  const look = useEffectEvent((state: { next: number }): void => {
    if (document.visibilityState !== 'visible' || Date.now() < state.next) return;
    state.next = Infinity;
    const begun = Date.now();
    void navigator.locks
      .request(`regressum-watch-${id}`, { ifAvailable: true }, async (lock) => {
        if (lock) await lookForDrift(id).catch(unlessFailure);
      })
      .finally(() => (state.next = Date.now() + SHARE * (Date.now() - begun)));
  });
  useEffect(() => {
    if (!canBeLookedAt) return;
    const state = { next: 0 };
    const stop = new AbortController();
    const { signal } = stop;
    const seen = (): void => look(state);
    seen();
    const clock = setInterval(seen, CLOCK_MS);
    document.addEventListener('visibilitychange', seen, { signal });
    window.addEventListener('focus', seen, { signal });
    let settling: ReturnType<typeof setTimeout> | undefined;
    const observer =
      picked && window.FileSystemObserver
        ? new window.FileSystemObserver(() => {
            clearTimeout(settling);
            settling = setTimeout(seen, SETTLE_MS);
          })
        : undefined;
    // Without the permission to read there is nothing to observe: the clock asks again.
    if (picked) observer?.observe(picked, { recursive: true }).catch(() => undefined);
    return () => {
      stop.abort();
      clearInterval(clock);
      clearTimeout(settling);
      observer?.disconnect();
    };
  }, [canBeLookedAt, picked, id]);
  return null;
}
