import { Button } from '@mantine/core';
import type { BuildLabel } from '#core/builds';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { useQuery } from '~/queries';
import { broadcast, updateInstall } from '~/store';
import { bytes } from './format';
import { Buttons, Notice } from './parts';

async function decline(install: string, build: BuildLabel): Promise<void> {
  await updateInstall(install, ({ notKept = [], ...now }) => ({ ...now, notKept: [...notKept, build] }));
  broadcast({ type: 'changed' });
}

/**
 * Offers once to keep a build whole that has proven good: after the storefront's next update its bytes are gone from the
 * folder.
 * @param since changes when the folder or its store may have
 */
export function KeepOffer({ install, build, since }: { install: string; build: BuildLabel; since: string | number }) {
  const job = useLatestJob(install, 'keep-build');
  const { value: offer } = useQuery('keepOffer', [install, build], `${since} ${job?.record.state}`);
  if (!offer) return null;
  const busy = job !== undefined && isUnderWay(job);
  const fits = offer.free === undefined || offer.bytes <= offer.free;
  return (
    <Notice>
      The next update takes the files of {build} away. Keep them, mods included, to come back without fetching:{' '}
      {bytes(offer.bytes)}
      {offer.free !== undefined && ` of ${bytes(offer.free)} free`}.{!fits && ' They do not fit on this drive.'}
      <Buttons>
        <Button size="xs" disabled={busy || !fits} onClick={() => void jobs.start('keep-build', install, { build })}>
          Keep {build}, {bytes(offer.bytes)}
        </Button>
        <Button size="xs" variant="default" disabled={busy} onClick={() => void decline(install, build)}>
          Do not keep it
        </Button>
      </Buttons>
    </Notice>
  );
}
