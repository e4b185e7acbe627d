import { Button } from '@mantine/core';
import { useState } from 'react';
import { useFetcher } from 'react-router';
import { fetchTotals, isNowhere } from '#core/fetch';
import { keepVanillaOf } from '~/commands';
import { isUnderWay, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Empty } from '~/parts/parts';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { CarryView } from '~/queries';
import { asksSignIn } from '~/remote';
import { SignInForm, type SignInOutcome } from '~/parts/SignInForm';

/** What has to be fetched before the files of a mod can be compared. */
export function Missing({ view, at, isSignedIn }: { view: CarryView; at: Attempts; isSignedIn: boolean }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keep-vanilla');
  const fetcher = useFetcher<SignInOutcome>();
  const [tries, setTries] = useState(0);
  const nowhere = view.missing.filter(isNowhere);
  const { toFetch } = fetchTotals(view.missing);
  if (nowhere.length > 0)
    return (
      <Empty title={`${counted(nowhere.length, 'file')} cannot be had`}>
        {nowhere
          .slice(0, 5)
          .map(({ path }) => path)
          .join(', ')}
        : not on this disk, and no source has {nowhere.length === 1 ? 'it' : 'them'}.
      </Empty>
    );
  const needsSignIn = !isSignedIn && view.missing.some(({ href }) => asksSignIn(href));
  const fetchThem = (
    <Button
      loading={at.busy || (job !== undefined && isUnderWay(job))}
      onClick={() => at.attempt(() => keepVanillaOf(install.id, view))}
    >
      Fetch {bytes(toFetch)}
    </Button>
  );
  return (
    <Empty
      title={`${counted(view.missing.length, 'file')} to fetch first`}
      action={
        needsSignIn ? (
          <SignInForm
            key={tries}
            fetcher={fetcher}
            locked={[]}
            startOver={() => setTries(tries + 1)}
            action={`/${install.id}/fetch`}
          />
        ) : (
          view.canKeep && fetchThem
        )
      }
    >
      The game’s files of {view.from} and {view.to} that this mod is made from are compared with it. Only these are
      fetched, {bytes(toFetch)}.
    </Empty>
  );
}
