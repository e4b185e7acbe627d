import { jobs, useLatestJob } from '~/jobs';
import { bytes, count } from '~/parts/format';
import { FailureNotice } from '~/parts/parts';
import type { Install } from '~/store';
import { Button } from '@mantine/core';
import styles from './frame.module.css';
import { ProgressBar } from './ProgressBar';

/** The first minute of the demo: the stand-in storefront puts the game on the browser's disk. */
export function Arriving({ install }: { install: Install }) {
  const job = useLatestJob(install.id, 'seed');
  const progress = job?.record.progress;
  return (
    <main className={styles.arriving}>
      <h1>Regressum</h1>
      <p>
        {install.title} is a made-up game. Its made-up storefront now puts it on this browser’s private disk, as it lay
        there this morning: updated in the night, with half of its mods broken.
      </p>
      {progress && (
        <>
          <ProgressBar progress={progress} label="Laying out the demo folder" />
          <p className="mono">
            {count(progress.files)} of {count(progress.filesTotal)} files · {bytes(progress.bytes)} of{' '}
            {bytes(progress.bytesTotal)}
          </p>
        </>
      )}
      {job?.record.failure && (
        <>
          <FailureNotice failure={job.record.failure} />
          <Button onClick={() => void jobs.again(job.record.id)}>Resume</Button>
        </>
      )}
    </main>
  );
}
