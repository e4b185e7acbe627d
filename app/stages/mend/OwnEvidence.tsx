import { Button, NativeSelect, SegmentedControl, Textarea, TextInput } from '@mantine/core';
import { useState } from 'react';
import type { Said, WorkItem } from '#core/mend';
import type { Mod } from '#core/mods';
import { forgetSaid, forgetTried, noteSaid, noteTried } from '~/commands';
import { FormButtons } from '~/parts/FormButtons';
import { Ago, Buttons, Section } from '~/parts/parts';
import type { Attempts } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { MendView } from '~/queries';
import type { StoredTrial } from '~/store';
import styles from './mend.module.css';

/** What was said elsewhere, to be written down with where it was said. */
function SaidForm({ mod, view, at, onClose }: { mod: Mod; view: MendView; at: Attempts; onClose: () => void }) {
  const { install } = useFrame();
  const [release, setRelease] = useState(view.releases.get(mod.id) ?? mod.releases.at(-1)!.version);
  const [runs, setRuns] = useState(true);
  const [text, setText] = useState('');
  const [address, setAddress] = useState('');
  return (
    <form
      aria-label={`What was said of ${mod.name}`}
      onSubmit={(event) => {
        event.preventDefault();
        const where = address.trim();
        const said = { mod: mod.id, release, build: view.to, runs, text: text.trim() };
        at.attempt(async () => {
          await noteSaid(install.game, { ...said, ...(where !== '' && { address: where }) });
          onClose();
        });
      }}
    >
      <NativeSelect
        size="xs"
        label="Release"
        data={mod.releases.map(({ version }) => version).toReversed()}
        value={release}
        onChange={({ currentTarget: { value } }) => setRelease(value)}
      />
      <SegmentedControl
        mt={6}
        size="xs"
        aria-label="What they say"
        value={runs ? 'runs' : 'not'}
        onChange={(value) => setRuns(value === 'runs')}
        data={[
          { value: 'runs', label: `It runs on ${view.to}` },
          { value: 'not', label: 'It does not' },
        ]}
      />
      <Textarea
        mt={6}
        size="xs"
        label="In their words"
        maxLength={2000}
        autosize
        maxRows={5}
        value={text}
        onChange={({ currentTarget: { value } }) => setText(value)}
      />
      <TextInput
        mt={6}
        mb={8}
        size="xs"
        label="Address or place"
        maxLength={500}
        value={address}
        onChange={({ currentTarget: { value } }) => setAddress(value)}
      />
      <FormButtons submit="Write it down" busy={at.busy} onCancel={onClose} />
    </form>
  );
}

/** What the person has seen or read of a mod, for and against; each can be taken back. */
export function OwnEvidence({
  item,
  mod,
  view,
  said,
  trials,
  at,
}: {
  item: WorkItem;
  mod: Mod;
  view: MendView;
  said: readonly Said[];
  trials: readonly StoredTrial[];
  at: Attempts;
}) {
  const { install } = useFrame();
  const [writing, setWriting] = useState(false);
  const { from } = item;
  const own = trials.flatMap(({ at: when, answer }) =>
    answer.told
      ? answer.mods.flatMap((one) => (one.mod === mod.id ? [{ when, build: answer.version, ...one }] : []))
      : [],
  );
  const heard = said.filter((one) => one.mod === mod.id);
  const isHere = from !== undefined && view.onDisk === view.to;
  const tried = (ran: boolean): void =>
    at.attempt(() => noteTried(install.id, view.to, [{ mod: mod.id, release: from!, ran }]));
  return (
    <section aria-label="Evidence of your own">
      <Section>Evidence of your own</Section>
      <ul className={styles.evidence}>
        {own.toReversed().map(({ when, build, release, ran }) => (
          <li key={when}>
            You saw {release} {ran ? 'run' : 'fail'} on {build}, <Ago at={when} />{' '}
            <Button
              size="compact-xs"
              variant="default"
              aria-label={`Take back that ${release} ${ran ? 'ran' : 'failed'} on ${build}`}
              onClick={() => at.attempt(() => forgetTried(install.id, when, mod.id))}
            >
              Take back
            </Button>
          </li>
        ))}
        {heard.toReversed().map(({ id, release, build, runs, text, address }) => (
          <li key={id}>
            {release} {runs ? 'runs' : 'does not run'} on {build}, somebody says
            {text !== '' && `: ${text}`} {address !== undefined && <span className="quiet">{address}</span>}{' '}
            <Button
              size="compact-xs"
              variant="default"
              aria-label={`Take back what was said of ${release} on ${build}`}
              onClick={() => at.attempt(() => forgetSaid(install.game, id))}
            >
              Take back
            </Button>
          </li>
        ))}
      </ul>
      {writing ? (
        <SaidForm mod={mod} view={view} at={at} onClose={() => setWriting(false)} />
      ) : (
        <Buttons>
          {isHere && (
            <>
              <Button size="xs" variant="default" disabled={at.busy} onClick={() => tried(true)}>
                {from} runs here
              </Button>
              <Button size="xs" variant="default" disabled={at.busy} onClick={() => tried(false)}>
                It does not
              </Button>
            </>
          )}
          <Button size="xs" variant="default" onClick={() => setWriting(true)}>
            Note what was said…
          </Button>
        </Buttons>
      )}
    </section>
  );
}
