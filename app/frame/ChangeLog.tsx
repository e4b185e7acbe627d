import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { changesOf, type KeptChange, keptChanges } from '~/changes';
import { isUnderWay, jobs, useJobs } from '~/jobs';
import { bytes } from '~/parts/format';
import { errorWords } from '~/parts/failure-words';
import { Ago } from '~/parts/parts';
import type { Install } from '~/store';
import styles from './frame.module.css';
import { LogColumns } from './LogColumns';

function changeWords({ set: { what, facts } }: KeptChange): string {
  switch (what) {
    case 'lay-down':
      if (facts.build && facts.build === facts.from) return `Repaired ${facts.build}`;
      return facts.build
        ? `Laid down ${facts.build}${facts.from ? ` over ${facts.from}` : ''}`
        : 'Put a folder in place';
    case 'hold':
      return 'Held';
    case 'release':
      return 'Ended the hold';
    case 'edit':
      return 'Changed files';
  }
}

const stateWords = ({ ended, way }: KeptChange): string => {
  if (way === undefined) return 'not begun';
  if (!ended) return 'unfinished';
  return way === 'on' ? 'in effect' : 'taken back';
};

/** The change sets whose old files are kept: the last one can be taken back, and what each keeps can be deleted. */
export function ChangeLog({ install }: { install: Install }) {
  const all = useJobs().filter(({ record }) => record.install === install.id);
  const busy = all.some(isUnderWay);
  const ended = all.filter((job) => !isUnderWay(job)).length;
  const [kept, setKept] = useState<readonly KeptChange[]>([]);
  const [failure, setFailure] = useState<string>();
  useEffect(() => {
    let wanted = true;
    keptChanges(changesOf(install)).then(
      (some) => wanted && (setKept(some), setFailure(undefined)),
      (error: unknown) => wanted && setFailure(errorWords(error).what),
    );
    return () => void (wanted = false);
    // Whenever a job has ended, another set may be there.
  }, [install, ended]);
  if (failure) return <p>{failure}</p>;
  if (kept.length === 0) return <p className="quiet">No changes are kept. Each change of the folder is listed here.</p>;
  const last = kept.find(({ set }) => set.what === 'lay-down');
  return (
    <table>
      <caption>Changes of {install.folder}, and what they keep</caption>
      <LogColumns />
      <thead className="unseen">
        <tr>
          <th>Change</th>
          <th>State</th>
          <th>Keeps</th>
          <th>When</th>
          <th>Actions</th>
        </tr>
      </thead>
      <tbody>
        {kept.map((change) => (
          <tr key={change.set.id}>
            <td>{changeWords(change)}</td>
            <td>{stateWords(change)}</td>
            <td className="mono">{bytes(change.bytes)}</td>
            <td>
              <Ago at={change.set.at} />
            </td>
            <td>
              <Actions change={change} isLast={change === last} busy={busy} install={install.id} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface ActionsProps {
  readonly change: KeptChange;
  readonly isLast: boolean;
  readonly busy: boolean;
  readonly install: string;
}

function Actions({ change, isLast, busy, install }: ActionsProps) {
  const { set, way, ended } = change;
  if (set.what !== 'lay-down') {
    return (
      <Link className="link" to={`/${install}/hold`}>
        Open Hold
      </Link>
    );
  }
  const turn = way === 'on' ? 'back' : 'on';
  return (
    <>
      {isLast && (
        <button
          type="button"
          className={styles.small}
          disabled={busy}
          onClick={() => void jobs.start('take-back', install, { set: set.id, way: turn })}
        >
          {turn === 'back' ? 'Take back' : 'Make again'}
        </button>
      )}{' '}
      {ended && (
        <button
          type="button"
          className={styles.small}
          disabled={busy}
          onClick={() => void jobs.start('let-go', install, { set: set.id })}
        >
          Delete what it keeps
        </button>
      )}
    </>
  );
}
