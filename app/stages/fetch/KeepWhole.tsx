import { Button } from '@mantine/core';
import { useState } from 'react';
import { asBuild } from '#core/builds';
import { PLACES } from '#core/changes';
import { keySize } from '#core/digest';
import { fetchTotals, isNowhere } from '#core/fetch';
import { isBelow } from '#core/paths';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { useFrame } from '~/parts/use-frame';
import { type KeepPlan, useQuery } from '~/queries';

/** Keeps the target whole in the store, mods included, so that it can be laid down again whatever becomes of its sources. */
export function KeepWhole({ build, busy }: { build: string; busy: boolean }) {
  const [isOpen, setOpen] = useState(false);
  return (
    <details onToggle={({ currentTarget }) => setOpen(currentTarget.open)}>
      <summary>Keep {build} for later</summary>
      {isOpen && <KeepNow build={build} busy={busy} />}
    </details>
  );
}

/** Bytes that keeping it adds to the drive: what the store has already is shared. */
const bytesAdded = ({ sources, missing }: KeepPlan): number =>
  [...sources].reduce((sum, [key, path]) => (isBelow(path, PLACES.contents) ? sum : sum + keySize(key)), 0) +
  [...new Set(missing.map(({ key }) => key))].reduce((sum, key) => sum + keySize(key), 0);

function KeepNow({ build, busy }: { build: string; busy: boolean }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keep-build', 'fetch');
  const since = `${job?.record.id} ${job?.record.state}`;
  const { value: plan } = useQuery('keepPlan', [install.id, asBuild(build)], since);
  const { value: kept } = useQuery('keptContents', [install.id], since);
  if (!plan) return null;
  // Kept with these mods: with others, some of them would still be added.
  const isKept =
    bytesAdded(plan) === 0 &&
    kept?.some(
      ({ reason, missing, checkedAt }) =>
        reason.kind === 'build' &&
        reason.game === plan.game &&
        reason.build === build &&
        missing === 0 &&
        checkedAt !== undefined,
    );
  const nowhere = plan.missing.filter(isNowhere).length;
  const toFetch = fetchTotals(plan.missing).toFetch;
  if (isKept) return <p className="quiet">It is kept, mods included. History tells what it takes of the drive.</p>;
  return (
    <>
      <p className="quiet">
        All files of {build} and its mods are put into the store, beside the game: {bytes(bytesAdded(plan))} more on the
        drive{toFetch > 0 && `, of which ${bytes(toFetch)} are fetched first`}.
        {nowhere > 0 && ` ${counted(nowhere, 'file')} cannot be had anywhere, so it cannot be kept whole.`}
      </p>
      <Button
        size="xs"
        variant="default"
        disabled={busy || nowhere > 0 || (job !== undefined && isUnderWay(job))}
        onClick={() => void jobs.start('keep-build', install.id, { build })}
      >
        Keep {build}
      </Button>
    </>
  );
}
