import { Button } from '@mantine/core';
import { useState } from 'react';
import { asBuild } from '#core/builds';
import { fetchTotals, isNowhere } from '#core/fetch';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { useFrame } from '~/parts/use-frame';
import { useQuery } from '~/queries';

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

function KeepNow({ build, busy }: { build: string; busy: boolean }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keep-build', 'fetch');
  const since = `${job?.record.id} ${job?.record.state}`;
  const { value: plan } = useQuery('keepPlan', [install.id, asBuild(build)], since);
  const { value: kept } = useQuery('keptContents', [install.id], since);
  if (!plan) return null;
  // Kept with these mods: with others, some of them would still be added.
  const isKept =
    plan.added === 0 &&
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
  const fits = plan.free === undefined || plan.added <= plan.free;
  if (isKept) return <p className="quiet">It is kept, mods included. History tells what it takes of the drive.</p>;
  return (
    <>
      <p className="quiet">
        All files of {build} and its mods are put into the store, beside the game: {bytes(plan.added)} more on the drive
        {toFetch > 0 && `, of which ${bytes(toFetch)} are fetched first`}.
        {nowhere > 0 && ` ${counted(nowhere, 'file')} cannot be had anywhere, so it cannot be kept whole.`}
        {!fits && ` Only ${bytes(plan.free!)} are free there: it does not fit.`}
      </p>
      <Button
        size="xs"
        variant="default"
        disabled={busy || nowhere > 0 || !fits || (job !== undefined && isUnderWay(job))}
        onClick={() => void jobs.start('keep-build', install.id, { build })}
      >
        Keep {build}
      </Button>
    </>
  );
}
