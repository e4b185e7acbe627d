import { Button } from '@mantine/core';
import { lazy, Suspense } from 'react';
import { useRevalidator } from 'react-router';
import { Notice } from '~/parts/parts';
import type { Changing } from '~/places';

const ServedToken = lazy(() => import('~/parts/ServedToken').then((module) => ({ default: module.ServedToken })));

/** Says on every page that a served folder cannot be asked now, which is no reason to call it read-only, and the way on. */
export function ServerAway({ changing }: { changing: Changing }) {
  const { revalidate } = useRevalidator();
  if (changing === 'other-start') {
    return (
      <Notice>
        The server was started again, and each start has a new token. Until this page has it, everything here is as it
        was known before.
        <div style={{ maxWidth: 360, marginTop: 8 }}>
          <Suspense>
            <ServedToken onRoots={() => void revalidate()} label="Use this token" />
          </Suspense>
        </div>
      </Notice>
    );
  }
  if (changing !== 'unreachable') return null;
  return (
    <Notice>
      The server that serves this folder does not answer. Start it again; everything here is as it was known before.{' '}
      <Button size="compact-sm" variant="default" onClick={() => void revalidate()}>
        Try again
      </Button>
    </Notice>
  );
}
