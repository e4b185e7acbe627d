import { Button, Checkbox, TextInput } from '@mantine/core';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import { WHOLE_BUILD } from '#core/sources';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { FailureNotice, Notice, Section } from '~/parts/parts';
import { useFrame } from '~/parts/use-frame';
import { query, type RecordPlan } from '~/queries';

/** Records what lies in the folder as a build of the person's own, which then counts as any other. */
export function RecordBuild({ open }: { open: boolean }) {
  const { install } = useFrame();
  return (
    <>
      <Section>Unlisted builds</Section>
      {install.place.kind !== 'list' && (
        <details open={open}>
          <summary>Record this folder as a build</summary>
          <p className="quiet">
            Under a label of your own it becomes a build like any other: on the build line, to choose, lay down and
            hold, and to hand on.
          </p>
          <RecordForm install={install.id} key={install.id} />
        </details>
      )}
      <p>
        <Link className="link" to={`/${install.id}/log`}>
          Read a log, or view recorded builds
        </Link>
      </p>
    </>
  );
}

const LEFT: Record<RecordPlan['left'][number]['why'], string> = {
  saves: 'saves',
  settings: 'settings',
  presets: 'settings of mods',
  content: 'own content',
  mods: 'mods',
};

function RecordForm({ install }: { install: string }) {
  const { survey, index } = useFrame();
  const job = useLatestJob(install, 'record-build');
  const [plan, setPlan] = useState<RecordPlan>();
  const [without, setWithout] = useState<ReadonlySet<string>>(new Set());
  const [isSplit, setSplit] = useState(false);
  const [depots, setDepots] = useState<ReadonlyMap<string, string>>(new Map());
  const [label, setLabel] = useState('');
  const [date, setDate] = useState(() => new Date().toISOString().slice(0, 10));
  const [branch, setBranch] = useState('');
  useEffect(() => {
    let isStale = false;
    void query('recordPlan', install).then((found) => !isStale && setPlan(found));
    return () => {
      isStale = true;
    };
  }, [install, survey?.at]);
  const name = label.trim();
  const isTaken = index.builds.some((build) => build.label === name);
  const busy = job !== undefined && isUnderWay(job);
  const taken = plan?.folders.filter((folder) => !without.has(folder.name)) ?? [];
  const files = taken.reduce((sum, one) => sum + one.files, 0);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const own = branch.trim() === '' ? {} : { branch: branch.trim() };
        const depotOf = (folder: string): string => (isSplit && depots.get(folder)?.trim()) || WHOLE_BUILD;
        const folders = taken.map((folder) => folder.name);
        const parts = [...new Set(folders.map(depotOf))].map((depot) => ({
          depot,
          folders: folders.filter((folder) => depotOf(folder) === depot),
        }));
        void jobs.start('record-build', install, { label: name, date, ...own, parts });
      }}
    >
      <TextInput
        size="xs"
        label="Label"
        placeholder="1.4 of the disc"
        maxLength={40}
        value={label}
        error={isTaken && !busy && job?.record.state !== 'done' ? 'There is a build of this label already.' : undefined}
        onChange={(event) => setLabel(event.currentTarget.value)}
      />
      <TextInput
        size="xs"
        mt={6}
        type="date"
        label="Date"
        description="It decides where the build stands between the others"
        required
        value={date}
        onChange={(event) => setDate(event.currentTarget.value)}
      />
      <TextInput
        size="xs"
        mt={6}
        label="Branch"
        description="Leave empty for none"
        maxLength={60}
        value={branch}
        onChange={(event) => setBranch(event.currentTarget.value)}
      />
      {plan && (
        <fieldset style={{ border: 0, padding: 0, margin: '8px 0' }}>
          <legend>What belongs to the game</legend>
          {plan.folders.map((folder) => {
            const title = folder.name === '' ? 'Files at the top' : folder.name;
            return (
              <div key={folder.name}>
                <Checkbox
                  size="xs"
                  my={4}
                  label={`${title}: ${counted(folder.files, 'file')}, ${bytes(folder.bytes)}`}
                  checked={!without.has(folder.name)}
                  onChange={({ currentTarget: { checked } }) =>
                    setWithout(
                      (now) => new Set(checked ? [...now].filter((one) => one !== folder.name) : [...now, folder.name]),
                    )
                  }
                />
                {isSplit && !without.has(folder.name) && (
                  <TextInput
                    size="xs"
                    ml={26}
                    mb={8}
                    aria-label={`Depot of ${title}`}
                    placeholder={WHOLE_BUILD}
                    maxLength={60}
                    value={depots.get(folder.name) ?? ''}
                    onChange={({ currentTarget: { value } }) =>
                      setDepots((now) => new Map(now).set(folder.name, value))
                    }
                  />
                )}
              </div>
            );
          })}
          {plan.folders.length > 1 && (
            <Checkbox
              size="xs"
              my={8}
              label="Split it into depots"
              description="Folders with the same name beside them form one depot"
              checked={isSplit}
              onChange={({ currentTarget: { checked } }) => setSplit(checked)}
            />
          )}
          {plan.left.length > 0 && (
            <p className="quiet">
              Left out: {plan.left.map(({ why, files: some }) => `${LEFT[why]} (${counted(some, 'file')})`).join(', ')}.
            </p>
          )}
        </fieldset>
      )}
      <Button mt={6} size="xs" variant="default" type="submit" disabled={name === '' || isTaken || busy || files === 0}>
        Record {counted(files, 'file')}
        {name && ` as ${name}`}
      </Button>
      {job?.record.state === 'done' && <Notice tone="right">Recorded. It is on the build line now.</Notice>}
      {job?.record.state === 'failed' && job.record.failure && <FailureNotice failure={job.record.failure} />}
    </form>
  );
}
