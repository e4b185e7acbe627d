import { useEffect, useRef } from 'react';
import { type LiveJob, useJobs } from '~/jobs';
import { tell } from '~/parts/notices';
import { JOB_TITLES } from './Tray';

const NAME = 'Regressum';
const LONG: ReadonlySet<string> = new Set(['fetch', 'assemble', 'survey', 'keep-build', 'bring-depots', 'copy-folder']);
const ENDS: Partial<Record<LiveJob['record']['state'], string>> = { done: 'done', failed: 'failed' };

function share({ record: { progress } }: LiveJob): number {
  const { bytes, bytesTotal, files, filesTotal } = progress;
  if (bytesTotal > 0) return bytes / bytesTotal;
  return filesTotal > 0 ? files / filesTotal : 0;
}

/** Has the page's title tell how far the work is, and a notice that it has ended, for who looks elsewhere meanwhile. */
export default function JobTitle() {
  const long = useJobs().filter(({ record }) => LONG.has(record.kind));
  const running = long.findLast(({ record }) => record.state === 'running' || record.state === 'paused');
  const followed = useRef(new Set<string>());
  useEffect(() => {
    for (const { record } of long) {
      if (record.endedAt === undefined) followed.current.add(record.id);
      else if (followed.current.delete(record.id) && ENDS[record.state]) {
        const words = `${JOB_TITLES[record.kind]}: ${ENDS[record.state]}`;
        tell(NAME, words, record.id);
        if (document.visibilityState === 'hidden') document.title = `${words} · ${NAME}`;
      }
    }
    if (running) {
      const { state, kind } = running.record;
      const how = state === 'paused' ? 'paused' : `${Math.floor(100 * share(running))} %`;
      const title = `${how} · ${JOB_TITLES[kind]} · ${NAME}`;
      if (document.title !== title) document.title = title;
    } else if (document.visibilityState === 'visible') document.title = NAME;
  });
  useEffect(() => {
    const seen = (): void => {
      if (document.visibilityState === 'visible' && !running) document.title = NAME;
    };
    document.addEventListener('visibilitychange', seen);
    return () => document.removeEventListener('visibilitychange', seen);
  }, [running]);
  return null;
}
