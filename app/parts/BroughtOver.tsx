import { Button } from '@mantine/core';
import { useEffect, useState } from 'react';
import { forgetBroughtOver, lastBroughtOver, listen, type BroughtOver as Told } from '~/store';
import { bytes, counted } from './format';
import { Notice } from './parts';

const words = ({ records, milliseconds }: Told): string =>
  `What this browser remembers (${counted(records, 'record')}) was brought over to this version of Regressum in ${(milliseconds / 1000).toFixed(1)} s.`;

/** Says that an older version's store was brought over, and what all of it takes of the browser's disk. */
export function BroughtOver() {
  const [told, setTold] = useState(lastBroughtOver);
  const [used, setUsed] = useState<number>();
  useEffect(() => listen((message) => message.type === 'brought-over' && setTold(message.told)), []);
  useEffect(() => {
    if (told) void navigator.storage.estimate().then(({ usage }) => setUsed(usage));
  }, [told]);
  if (!told) return null;
  const close = (): void => {
    forgetBroughtOver();
    setTold(undefined);
  };
  return (
    <Notice tone="right">
      {words(told)}
      {used !== undefined && ` With the files that it keeps, it takes ${bytes(used)} of the browser’s disk.`}{' '}
      <Button size="compact-xs" variant="default" onClick={close}>
        Close
      </Button>
    </Notice>
  );
}
