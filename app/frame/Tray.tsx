import { lazy, Suspense, useState } from 'react';
import { isUnderWay, jobs, type LiveJob } from '~/jobs';
import { bytes, count, counted, duration } from '~/parts/format';
import { failureWords } from '~/parts/failure-words';
import { Ago } from '~/parts/parts';
import { type Install, type JobKind, type JobState, KeptInPartSchema } from '~/store';
import styles from './frame.module.css';
import { LATER } from './later';
import { ProgressBar } from './ProgressBar';

const JobLog = lazy(LATER.JobLog);

export const JOB_TITLES: Record<JobKind, string> = {
  seed: 'Laying out the demo folder',
  look: 'Quick look',
  survey: 'Survey',
  keepsake: 'Keepsake',
  'put-back': 'Putting files back',
  'drop-keepsakes': 'Deleting keepsakes',
  'copy-keepsakes': 'Copying keepsakes to this browser',
  'pack-keepsake': 'Packing a keepsake',
  'pack-sheet': 'Packing the hold sheet',
  shelve: 'Taking files of mods in',
  'bring-keepsake': 'Bringing in an archive',
  'bring-own': 'Bringing in files of another folder',
  fetch: 'Fetch',
  'bring-depots': 'Bringing in depots',
  assemble: 'Laying down',
  clean: 'Cleaning up',
  hold: 'Holding',
  release: 'Ending the hold',
  'switch-branch': 'Switching the branch',
  'switch-profile': 'Switching profiles',
  'copy-folder': 'Copying a folder',
  'delete-files': 'Deleting files',
  'move-files': 'Moving files',
  'set-switch': 'Setting the loader’s switch',
  'take-back': 'Taking back',
  'let-go': 'Deleting what is kept',
  'keep-build': 'Keeping a build',
  'keep-vanilla': 'Keeping game files of a mod',
  'record-build': 'Recording a build',
  'tend-store': 'Store',
  'move-store': 'Moving the store',
  'storefront-update': 'Storefront update',
  start: 'Starting the game',
};

const STATE_WORDS: Record<JobState, string> = {
  waiting: 'waiting for the disk',
  running: 'running',
  paused: 'paused',
  done: 'done',
  failed: 'failed',
  cancelled: 'cancelled',
};

/** Whoever waits is told for whom, where that is known. */
export function stateWords(state: JobState, ahead: LiveJob | undefined): string {
  if (state !== 'waiting' || !ahead) return STATE_WORDS[state];
  const { kind, state: its } = ahead.record;
  return `waiting for "${JOB_TITLES[kind]}"${its === 'paused' ? ', which is paused' : ''}`;
}

export function progressWords({ record, speed }: LiveJob): string {
  const { files, filesTotal, bytes: done, bytesTotal, wire } = record.progress;
  if (filesTotal === 0) return files > 0 ? counted(files, 'file') : '';
  const running = record.state === 'running';
  const left = running && speed.secondsLeft ? ` · ${duration(speed.secondsLeft)} left` : '';
  const rate = running ? ` · ${bytes(speed.rate)}/s` : '';
  const came = wire === undefined ? '' : ` written · ${bytes(wire)} on the wire`;
  return `${count(files)} of ${count(filesTotal)} · ${bytes(done)} of ${bytes(bytesTotal)}${came}${rate}${left}`;
}

function Running({ job, ahead }: { job: LiveJob; ahead: LiveJob | undefined }) {
  const { id, kind, state, progress, cancelling } = job.record;
  const phase = progress.phase || JOB_TITLES[kind];
  const title = cancelling ? `Cancelling: ${phase}` : phase;
  return (
    <>
      <span>{state === 'running' ? title : `${title}: ${stateWords(state, ahead)}`}</span>
      <ProgressBar progress={progress} label={title} />
      <span className="mono">{progressWords(job)}</span>
      {state === 'running' && !cancelling && (
        <button type="button" className={styles.small} onClick={() => jobs.pause(id)}>
          Pause
        </button>
      )}
      {state === 'paused' && (
        <button type="button" className={styles.small} onClick={() => jobs.resume(id)}>
          Resume
        </button>
      )}
      {!cancelling && (
        <button type="button" className={styles.small} onClick={() => void jobs.cancel(id)}>
          Cancel
        </button>
      )}
    </>
  );
}

/** What a keepsake that is done is without; undefined where it has everything, or is none. */
export function withoutWords({ record: { kind, outcome } }: LiveJob): string | undefined {
  const unread = kind === 'keepsake' ? KeptInPartSchema.safeParse(outcome).data?.unread : undefined;
  if (!unread) return undefined;
  const [first, ...others] = unread;
  return `without ${first}${others.length > 0 ? ` and ${counted(others.length, 'other')}` : ''}`;
}

function Ended({ job }: { job: LiveJob }) {
  const { id, kind, state, failure, endedAt, progress, cancelling, install } = job.record;
  const without = state === 'done' ? withoutWords(job) : undefined;
  return (
    <>
      <span>
        {progress.phase || JOB_TITLES[kind]}: {STATE_WORDS[state]} {without}{' '}
        {endedAt !== undefined && <Ago at={endedAt} />}
      </span>
      {without !== undefined && (
        <button type="button" className={styles.small} onClick={() => void jobs.start('keepsake', install)}>
          Keep again
        </button>
      )}
      {state === 'failed' && failure && (
        <>
          <span style={{ color: 'var(--brick)' }}>{failureWords(failure).what}</span>
          <button type="button" className={styles.small} onClick={() => void jobs.again(id)}>
            Resume
          </button>
          {failure.code === 'keepsake/partial' && !cancelling && (
            <button type="button" className={styles.small} onClick={() => void jobs.again(id, { inPart: true })}>
              Go on without
            </button>
          )}
          {!cancelling && (
            <button type="button" className={styles.small} onClick={() => void jobs.cancel(id)}>
              Cancel
            </button>
          )}
        </>
      )}
    </>
  );
}

interface TrayProps {
  /** Of this install, oldest first. */
  readonly jobs: readonly LiveJob[];
  readonly install: Install;
}

/** Running jobs at the foot of every screen; opens upward into the log of all jobs. */
export function Tray({ jobs: all, install }: TrayProps) {
  const [open, setOpen] = useState(false);
  const running = all.find(({ record }) => record.state === 'running' || record.state === 'paused');
  const waiting = all.filter(({ record }) => record.state === 'waiting').length;
  const shown = running ?? all.find(isUnderWay) ?? all.at(-1);
  return (
    <footer aria-label="Jobs">
      {open && (
        <div className={styles.log} tabIndex={0} role="region" aria-label={`Log of ${install.id}`}>
          <Suspense>
            <JobLog all={all} />
          </Suspense>
        </div>
      )}
      <div className={styles.tray}>
        {shown ? (
          isUnderWay(shown) ? (
            <Running job={shown} ahead={running} />
          ) : (
            <Ended job={shown} />
          )
        ) : (
          <span className="quiet">No jobs yet</span>
        )}
        <button type="button" className={styles.small} aria-expanded={open} onClick={() => setOpen(!open)}>
          {count(waiting)} waiting · log
        </button>
      </div>
    </footer>
  );
}
