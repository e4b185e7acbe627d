import { useEffect, useState } from 'react';
import { PrefetchPageLinks } from 'react-router';
import { LATER } from './later';
import { STAGES } from './stages';

/** Long after the page that was asked for is there, so that nothing is kept waiting. */
const AFTER_MS = 10_000;
/** By then all of them are here, or not to be had. */
const DONE_MS = 50_000;

const OTHER_PAGES = [
  ...['carry', 'folders', 'history', 'keepsakes', 'profiles', 'log', 'mods', 'narrow', 'order', 'proof', 'shelf'],
];

/** A page that cannot be loaded has the router load this one anew, which would be lost as well while nobody answers. */
const serverAnswers = (): Promise<boolean> =>
  fetch(import.meta.url, { method: 'HEAD', cache: 'no-store' }).then(
    ({ ok }) => ok,
    () => false,
  );

/**
 * Loads the other pages ahead: the work needs no server but for what is fetched, and must not stop because the program
 * that brought the pages was ended meanwhile.
 */
export function LoadAhead({ install }: { install: string }) {
  const [phase, setPhase] = useState<'later' | 'now' | 'done'>('later');
  useEffect(() => {
    if (phase === 'now') for (const load of Object.values(LATER)) void load().catch(() => undefined);
  }, [phase]);
  useEffect(() => {
    if (phase === 'done') return;
    const goOn = async (): Promise<void> => {
      if (phase === 'now') setPhase('done');
      else if (await serverAnswers()) setPhase('now');
    };
    const timer = setInterval(() => void goOn(), phase === 'now' ? DONE_MS : AFTER_MS);
    return () => clearInterval(timer);
  }, [phase]);
  if (phase !== 'now') return null;
  return [...STAGES.map(({ id }) => id), ...OTHER_PAGES].map((page) => (
    <PrefetchPageLinks key={page} page={`/${install}/${page}`} />
  ));
}
