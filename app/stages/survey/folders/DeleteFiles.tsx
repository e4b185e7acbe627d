import { Button } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { bytes, count, counted } from '~/parts/format';
import { Notice, Pairs } from '~/parts/parts';
import { Stale } from '~/parts/Stale';
import { useQuery } from '~/queries';
import type { Install } from '~/store';
import styles from './folders.module.css';

/** Names that are shown of files that nobody else has. */
const MOST_NAMED = 8;

/** Deletes the files of a folder: names first what nobody else has, and keeps it. */
export function DeleteFiles({ install, held }: { install: Install; held: boolean }) {
  const [open, setOpen] = useState(false);
  const under = useJobs().filter((job) => job.record.install === install.id);
  const busy = under.some(isUnderWay);
  const { value: view } = useQuery('losses', open ? [install.id] : undefined, under.length + Number(busy));
  const files = view?.found.size ?? 0;
  const last = under.findLast(({ record }) => record.kind === 'delete-files' && record.state === 'done');
  return (
    <details className={styles.part} open={open} onToggle={(event) => setOpen(event.currentTarget.open)}>
      <summary>Delete its files</summary>
      {!view ? (
        <p className="quiet">Looking at what would be lost …</p>
      ) : files === 0 ? (
        <p className="quiet">
          {last ? 'Its files are deleted. ' : 'No files are known of it. '}
          {last && (
            <>
              <Link className="link" to={`/${install.id}/history`}>
                History
              </Link>{' '}
              takes that back, or frees the room.
            </>
          )}
        </p>
      ) : (
        <>
          <Pairs
            rows={[
              { name: 'Can be fetched again', value: `${count(view.again.files)} · ${bytes(view.again.bytes)}` },
              { name: 'Saves and settings', value: `${count(view.own.files)} · ${bytes(view.own.bytes)}` },
              { name: 'Nobody else has', value: count(view.lost.length) },
            ]}
          />
          {view.lost.length > 0 && (
            <ul className={styles.lost}>
              {view.lost.slice(0, MOST_NAMED).map(({ path }) => (
                <li key={path} className="mono">
                  {path}
                </li>
              ))}
              {view.lost.length > MOST_NAMED && <li>and {count(view.lost.length - MOST_NAMED)} more</li>}
            </ul>
          )}
          <p className="quiet">
            {view.lost.length + view.own.files > 0 &&
              `The ${counted(view.lost.length + view.own.files, 'file')} that cannot be fetched again are kept as a keepsake first. `}
            All files go into the store, from which History brings them back, or frees the room.
          </p>
          {held && <Notice>Release the hold first.</Notice>}
          {!view.fresh && <Stale>Check it again first.</Stale>}
          <Button
            size="xs"
            variant="default"
            disabled={busy || held || !view.fresh}
            onClick={() => void jobs.start('delete-files', install.id)}
          >
            Delete {counted(files, 'file')}
          </Button>
        </>
      )}
    </details>
  );
}
