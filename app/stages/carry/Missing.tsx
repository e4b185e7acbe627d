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
import { type CarryView, useQuery } from '~/queries';
import { basesWish } from './MadeFor';
import { asksSignIn } from '~/remote';
import { SignInForm, type SignInOutcome } from '~/parts/SignInForm';

/** What has to be fetched before the files of a mod can be compared. */
export function Missing({ view, at, isSignedIn }: { view: CarryView; at: Attempts; isSignedIn: boolean }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keep-vanilla');
  const fetcher = useFetcher<SignInOutcome>();
  const [tries, setTries] = useState(0);
  const nowhere = view.missing.filter(isNowhere);
  const wish = basesWish(install.id, view);
  const { value: bases } = useQuery('carryBases', wish, view.missing.length);
  const missing = [...view.missing, ...(bases?.missing ?? []).filter((item) => !isNowhere(item))];
  const { toFetch } = fetchTotals(missing);
  const files = new Set(missing.map(({ key }) => key)).size;
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
      onClick={() => at.attempt(() => keepVanillaOf(install.id, view, wish !== undefined))}
    >
      Fetch {bytes(toFetch)}
    </Button>
  );
  return (
    <Empty
      title={`${counted(files, 'file')} to fetch first`}
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
      {wish
        ? `Nobody says what this mod was made for: the game’s files at each of ${counted(view.builds.length, 'build')} are compared with it.`
        : `The game’s files of ${view.from} and ${view.to} that this mod is made from are compared with it.`}{' '}
      Only these are fetched, {bytes(toFetch)}.
    </Empty>
  );
}
