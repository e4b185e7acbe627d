import { Button, Checkbox } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import type { CleaningRow } from '#core/survey';
import { failureToWire } from '#core/failure';
import { jobs, isUnderWay, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { LookLink } from '~/parts/LookLink';
import { Empty, FailureNotice } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { useFrame } from '~/parts/use-frame';
import { VirtualRows } from '~/parts/VirtualRows';
import { askFor } from '~/places';
import { useQuery } from '~/queries';
import styles from './survey.module.css';

const DOES: Record<CleaningRow['does'], string> = {
  setAside: 'set aside',
  moveBack: 'put back from elsewhere in the folder',
  fetch: 'fetch and put back',
};
const PLANNED: readonly (readonly [CleaningRow['does'], (files: string, size: string) => string])[] = [
  ['setAside', (files) => `set ${files} aside`],
  ['moveBack', (files) => `put ${files} back`],
  ['fetch', (files, size) => `fetch ${files}, ${size}`],
];

/** What is done, in words: only what there is. */
function plannedWords(rows: readonly CleaningRow[]): string {
  const words = PLANNED.flatMap(([does, say]) => {
    const some = rows.filter((row) => row.does === does);
    return some.length === 0
      ? []
      : [say(counted(some.length, 'file'), bytes(some.reduce((n, { size }) => n + size, 0)))];
  });
  const text = words.join(', ');
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** What it takes until the folder is clean, file by file, before it is done as one change. */
export function CleanUp({ since }: { since: number }) {
  const { install } = useFrame();
  const { value: rows, failure } = useQuery('cleanUp', [install.id], since);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const job = useLatestJob(install.id, 'clean');
  const busy = job !== undefined && isUnderWay(job);
  if (failure !== undefined) return <FailureNotice failure={failureToWire(failure)} />;
  if (!rows) return null;
  if (rows.length === 0) {
    return (
      <Empty title="Nothing to clean up" action={<BackToMap />}>
        Every file belongs to the build, a mod or you.
      </Empty>
    );
  }
  const planned = rows.filter(({ path }) => !left.has(path));
  const toggle = (path: string): void => {
    const next = new Set(left);
    if (!next.delete(path)) next.add(path);
    setLeft(next);
  };
  const start = async (): Promise<void> => {
    // Asked here because browsers show the question only on a click.
    if (install.place.kind === 'picked') await askFor(install.place, 'readwrite');
    await jobs.start('clean', install.id, { leave: [...left] });
  };
  return (
    <div className={styles.picture}>
      <div className={styles.filter}>
        <Checkbox
          size="xs"
          label="All"
          checked={left.size === 0}
          indeterminate={left.size > 0 && planned.length > 0}
          onChange={() => setLeft(new Set(left.size === 0 ? rows.map(({ path }) => path) : []))}
        />
        <span className="quiet">Files that are not ticked are left alone.</span>
        <BackToMap />
      </div>
      <VirtualRows
        label="Files to clean up"
        length={rows.length}
        height={28}
        row={(i) => {
          const { path, does, size } = rows[i]!;
          return (
            <div className={styles.cleanRow} title={path}>
              <Checkbox size="xs" checked={!left.has(path)} label={path} onChange={() => toggle(path)} />
              <span className="quiet">{DOES[does]}</span>
              <span className="mono">{bytes(size)}</span>
            </div>
          );
        }}
      />
      <div className={styles.cleanFoot}>
        {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
        <p className="quiet">
          One change, which History can take back: what is set aside or replaced is kept until you delete it.{' '}
          <Link className="link" to={`/${install.id}/history`}>
            Open History
          </Link>
        </p>
        <Button disabled={busy || planned.length === 0} onClick={() => void start()}>
          {planned.length === 0 ? 'Nothing is ticked' : plannedWords(planned)}
        </Button>
      </div>
    </div>
  );
}

function BackToMap() {
  const address = useAddress();
  return (
    <Button size="xs" variant="default" onClick={() => address.set({ clean: undefined })}>
      Back to the map
    </Button>
  );
}

/** Opens the list of what is to be done. */
export function ReviewCleanUp() {
  return (
    <LookLink changes={{ clean: 'up', file: undefined, since: undefined }} className="link">
      Review and clean up
    </LookLink>
  );
}
