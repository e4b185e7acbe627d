import { Button } from '@mantine/core';
import { useEffect, useState } from 'react';
import type { BroughtOver } from '~/store';
import { bytes, counted } from './format';
import { Notice } from './parts';

/** Below that a figure would be 0.0. */
const SHORTEST_MS = 100;

const timeWords = (milliseconds: number): string =>
  milliseconds < SHORTEST_MS ? 'less than 0.1 s' : `${(milliseconds / 1000).toFixed(1)} s`;

const words = ({ records, milliseconds }: BroughtOver): string =>
  `What this browser remembers (${counted(records, 'record')}) was brought over to this version in ${timeWords(milliseconds)}.`;

/** What was brought over, in words. */
export default function BroughtOverNotice({ told, onClose }: { told: BroughtOver; onClose: () => void }) {
  const [used, setUsed] = useState<number>();
  useEffect(() => {
    // A browser that does not say has the figure left out.
    void navigator.storage.estimate().then(
      ({ usage }) => setUsed(usage),
      () => undefined,
    );
  }, [told]);
  return (
    <Notice tone="right">
      {words(told)}
      {used !== undefined && ` With its files it takes ${bytes(used)} of the browser’s disk.`}{' '}
      <Button size="compact-xs" variant="default" onClick={onClose}>
        Close
      </Button>
    </Notice>
  );
}
