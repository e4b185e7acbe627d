import { useTimeout } from '@mantine/hooks';
import { useState } from 'react';
import { PrefetchPageLinks } from 'react-router';
import { STAGES } from './stages';

/** Long after the page that was asked for is there, so that nothing is kept waiting. */
const AFTER_MS = 10_000;
/** By then all of them are here, or not to be had. */
const DONE_MS = 60_000;

const OTHER_PAGES = ['folders', 'history', 'log', 'mods'];

/**
 * Loads the other pages ahead: the work needs no server but for what is fetched, and must not stop because the program
 * that brought the pages was ended meanwhile.
 */
export function LoadAhead({ install }: { install: string }) {
  const [phase, setPhase] = useState<'later' | 'now' | 'done'>('later');
  useTimeout(() => setPhase('now'), AFTER_MS, { autoInvoke: true });
  useTimeout(() => setPhase('done'), DONE_MS, { autoInvoke: true });
  if (phase !== 'now') return null;
  return [...STAGES.map(({ id }) => id), ...OTHER_PAGES].map((page) => (
    <PrefetchPageLinks key={page} page={`/${install}/${page}`} />
  ));
}
