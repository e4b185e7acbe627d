import { Button } from '@mantine/core';
import { useRevalidator } from 'react-router';
import { Notice } from '~/parts/parts';
import { ServedToken } from '~/parts/ServedToken';
import type { Changing } from '~/places';

/** Says on every page that a served folder cannot be asked now, which is no reason to call it read-only, and the way on. */
export default function ServerAway({ changing }: { changing: Extract<Changing, 'other-start' | 'unreachable'> }) {
  const { revalidate } = useRevalidator();
  if (changing === 'other-start') {
    return (
      <Notice>
        The server was started again, and each start has a new token. Until this page has it, everything here is as it
        was known before.
        <div style={{ maxWidth: 360, marginTop: 8 }}>
          <ServedToken onRoots={() => void revalidate()} label="Use this token" />
        </div>
      </Notice>
    );
  }
  return (
    <Notice>
      The server that serves this folder does not answer. Start it again; everything here is as it was known before.{' '}
      <Button size="compact-sm" variant="default" onClick={() => void revalidate()}>
        Try again
      </Button>
    </Notice>
  );
}
