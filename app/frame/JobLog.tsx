import type { LiveJob } from '~/jobs';
import { failureWords } from '~/parts/failure-words';
import { Ago } from '~/parts/parts';
import { JOB_TITLES, progressWords, stateWords, withoutWords } from './Tray';

const MOST_SHOWN = 100;

/** All jobs of an install, the newest first. */
export default function JobLog({ all }: { all: readonly LiveJob[] }) {
  const ahead = all.find(({ record }) => record.state === 'running' || record.state === 'paused');
  return (
    <table>
      <caption>Jobs</caption>
      <colgroup>
        <col />
        <col />
        <col />
        <col />
        <col />
      </colgroup>
      <thead className="unseen">
        <tr>
          <th>Job</th>
          <th>State</th>
          <th>Progress</th>
          <th>When</th>
          <th>Failure</th>
        </tr>
      </thead>
      <tbody>
        {all
          .slice(-MOST_SHOWN)
          .toReversed()
          .map((job) => (
            <tr key={job.record.id}>
              <td>{JOB_TITLES[job.record.kind]}</td>
              <td>
                {stateWords(job.record.state, ahead)} {job.record.state === 'done' && withoutWords(job)}
              </td>
              <td className="mono">{progressWords(job)}</td>
              <td>
                <Ago at={job.record.endedAt ?? job.record.startedAt} />
              </td>
              <td>{job.record.failure && failureWords(job.record.failure).what}</td>
            </tr>
          ))}
      </tbody>
    </table>
  );
}
