import { Button } from '@mantine/core';
import { asBuild } from '#core/builds';
import type { ToldReference } from '#core/contents';
import { fetchTotals, isNowhere } from '#core/fetch';
import { jobs } from '~/jobs';
import { useQuery } from '~/queries';
import { bytes, count, counted } from '~/parts/format';
import { Ago, Buttons, Notice, Pairs } from '~/parts/parts';
import { referenceTitle } from './history-words';
import styles from './history.module.css';

const WHY = {
  build: 'After the next update this build can be laid down again without fetching it.',
  covered: 'Taking the mod out puts them back without fetching.',
  fetched: 'Kept until it is laid down.',
  release: 'The files of a release that is to be had nowhere else. Without them it can no longer be laid down.',
  vanilla: 'With them the mod can be carried forward again after the next update, without fetching.',
  keepsake: 'A keepsake that was cut off while it was made. Without its list it cannot be put back.',
} as const;

/** Contents that are kept for a reason: since when, and whether they are all there. */
export function KeptPanel({ kept, install }: { kept: ToldReference; install: string }) {
  const { reason, files, bytes: size, at, checkedAt, missing } = kept;
  return (
    <>
      <div className="label">
        <Ago at={at} />
      </div>
      <h2 className={styles.heading}>{referenceTitle(kept, install)}</h2>
      <p className="quiet">{WHY[reason.kind]}</p>
      <Pairs
        rows={[
          { name: 'Contents', value: count(files) },
          { name: 'On the drive for it', value: bytes(size) },
          { name: 'Missing', value: count(missing) },
          {
            name: 'Last read and found right',
            value:
              checkedAt === undefined ? reason.kind === 'fetched' ? 'as each came' : 'not yet' : <Ago at={checkedAt} />,
          },
        ]}
      />
      {missing > 0 && reason.kind === 'build' && (
        <Incomplete install={install} build={reason.build} missing={missing} />
      )}
    </>
  );
}

/** What of a kept build is gone, and what it takes to have it again. */
function Incomplete({ install, build, missing }: { install: string; build: string; missing: number }) {
  const { value: plan } = useQuery('keepPlan', [install, asBuild(build)], missing);
  const toFetch = plan ? fetchTotals(plan.missing).toFetch : 0;
  const nowhere = plan?.missing.filter(isNowhere).length ?? 0;
  return (
    <Notice>
      {counted(missing, 'content')} {missing === 1 ? 'is' : 'are'} missing. Completing the build takes what lies in this
      folder{toFetch > 0 && ` and fetches ${bytes(toFetch)}`}.
      {nowhere > 0 && ` ${counted(nowhere, 'file')} cannot be had anywhere.`}
    </Notice>
  );
}

const DELETE = {
  build: 'the kept build',
  covered: 'these files',
  fetched: 'what was fetched',
  keepsake: 'this keepsake',
  release: 'this release',
  vanilla: 'these files',
} as const;

/** Reads kept contents again, completes them, or deletes them. */
export function KeptActions({ kept, install, busy }: { kept: ToldReference; install: string; busy: boolean }) {
  const { id, reason, files, bytes: size, missing } = kept;
  const tend = (act: 'verify' | 'drop'): void =>
    void jobs.start('tend-store', install, { act, reference: id, files, bytes: size });
  return (
    <Buttons>
      {reason.kind === 'build' && missing > 0 && (
        <Button
          disabled={busy}
          onClick={() => void jobs.start('keep-build', install, { build: reason.build, isKept: true })}
        >
          Complete build {reason.build}
        </Button>
      )}
      <Button variant={missing > 0 ? 'default' : 'filled'} disabled={busy} onClick={() => tend('verify')}>
        Check {counted(files, 'content')} again
      </Button>
      <Button variant="default" disabled={busy} onClick={() => tend('drop')}>
        Delete {DELETE[reason.kind]}, {bytes(size)}
      </Button>
    </Buttons>
  );
}
