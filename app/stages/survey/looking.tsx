import { Button } from '@mantine/core';
import { useRef, useState } from 'react';
import { Link } from 'react-router';
import { filesOfInput } from '~/folders';
import { nextStage, type Stage } from '~/frame/stages';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { Buttons, Notice } from '~/parts/parts';
import { handOverAgain } from '~/commands';
import { askFor, isHanded } from '~/places';

const NEXT_WORDS: Record<Stage['id'], string> = {
  survey: 'Open Survey',
  choose: 'Choose a build',
  fetch: 'Open Fetch',
  assemble: 'Open Assemble',
  hold: 'Open Hold',
  mend: 'Open Mend',
};

/** The two ways to look at the folder, or what has to be done before it can be looked at. */
export function LookButtons() {
  const frame = useFrame();
  const { install, survey } = frame;
  const next = nextStage(frame);
  const latest = [useLatestJob(install.id, 'look'), useLatestJob(install.id, 'survey')];
  const busy = latest.some((job) => job !== undefined && isUnderWay(job));
  const refused = latest.some((job) => job?.record.failure?.code === 'folder/no-permission');
  const { place } = install;
  if (place.kind === 'list') {
    return (
      <Button component={Link} to={`/${install.id}/folders`} variant="default">
        Add a newer list
      </Button>
    );
  }
  if (place.kind === 'handed' && !isHanded(install.id)) return <HandOverAgain />;
  const start = async (kind: 'look' | 'survey', trustEarlier = false): Promise<void> => {
    // Asked here because browsers show the question only on a click.
    if (place.kind === 'picked') await askFor(place, 'read');
    await jobs.start(kind, install.id, { trustEarlier });
  };
  // After a full check the next step leads on; checking again stands behind it.
  const isDone = next !== 'survey' && !busy;
  return (
    <>
      {refused && <Notice>The browser needs your permission again. Allow it, then try again.</Notice>}
      <Buttons>
        {isDone && (
          <Button component={Link} to={`/${install.id}/${next}`}>
            {NEXT_WORDS[next]}
          </Button>
        )}
        <Button
          disabled={busy}
          {...(isDone ? { variant: 'default', size: 'xs' } : {})}
          onClick={() => void start('survey')}
        >
          Check every file in {install.folder}
        </Button>
        {survey && (
          <Button
            disabled={busy}
            size={isDone ? 'xs' : 'sm'}
            variant="default"
            title="Files whose size and time are the same are not read again"
            onClick={() => void start('survey', true)}
          >
            Check changed files only
          </Button>
        )}
        <Button disabled={busy} size={isDone ? 'xs' : 'sm'} variant="default" onClick={() => void start('look')}>
          Take a quick look
        </Button>
      </Buttons>
    </>
  );
}

function HandOverAgain() {
  const { install } = useFrame();
  const input = useRef<HTMLInputElement>(null);
  const [empty, setEmpty] = useState(false);
  const take = (list: FileList): void => {
    const { files } = filesOfInput(list);
    setEmpty(files.size === 0);
    if (files.size > 0) void handOverAgain(install, files);
  };
  return (
    <>
      <p className="quiet">The page was reloaded. Open {install.folder} again to read its files.</p>
      {empty && <Notice>This folder is empty.</Notice>}
      <input
        ref={(element) => {
          input.current = element;
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        multiple
        hidden
        aria-label={`Open ${install.folder} again`}
        onChange={({ currentTarget }) => currentTarget.files && take(currentTarget.files)}
      />
      <Button onClick={() => input.current?.click()}>Open {install.folder} again</Button>
    </>
  );
}
