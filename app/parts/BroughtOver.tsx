import { Button } from '@mantine/core';
import { useEffect, useState } from 'react';
import { forgetBroughtOver, lastBroughtOver, listen, type BroughtOver as Told } from '~/store';
import { bytes, counted } from './format';
import { Notice } from './parts';

/** Below that a figure would be 0.0. */
const SHORTEST_MS = 100;

const timeWords = (milliseconds: number): string =>
  milliseconds < SHORTEST_MS ? 'less than 0.1 s' : `${(milliseconds / 1000).toFixed(1)} s`;

const words = ({ records, milliseconds }: Told): string =>
  `What this browser remembers (${counted(records, 'record')}) was brought over to this version in ${timeWords(milliseconds)}.`;

/** Says that an older version's store was brought over, and what all of it takes of the browser's disk. */
export function BroughtOver() {
  const [told, setTold] = useState(lastBroughtOver);
  const [used, setUsed] = useState<number>();
  useEffect(() => listen((message) => message.type === 'brought-over' && setTold(message.told)), []);
  useEffect(() => {
    if (!told) return;
    // A browser that does not say has the figure left out.
    void navigator.storage.estimate().then(
      ({ usage }) => setUsed(usage),
      () => undefined,
    );
  }, [told]);
  if (!told) return null;
  const close = (): void => {
    forgetBroughtOver();
    setTold(undefined);
  };
  return (
    <Notice tone="right">
      {words(told)}
      {used !== undefined && ` With its files it takes ${bytes(used)} of the browser’s disk.`}{' '}
      <Button size="compact-xs" variant="default" onClick={close}>
        Close
      </Button>
    </Notice>
  );
}
