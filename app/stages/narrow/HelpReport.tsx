import { Button, Modal, Textarea } from '@mantine/core';
import { useState } from 'react';
import { Copyable } from '~/parts/Copyable';
import { Buttons, Notice } from '~/parts/parts';
import { saveFile } from '~/parts/save-file';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { type NarrowView, query } from '~/queries';
import { helpReport } from './help-report';

/** One text for whoever is asked for help, to look over before it is handed on. */
export function HelpReport({ view }: { view: NarrowView }) {
  const frame = useFrame();
  const at = useAttempt();
  const [text, setText] = useState<string>();
  const { id } = frame.install;
  const make = async (): Promise<void> => {
    const [survey, log] = await Promise.all([query('survey', id), query('logCauses', id)]);
    setText(helpReport({ frame, view, survey, log }));
  };
  return (
    <>
      {at.failure !== undefined && <Notice tone="wrong">{at.failure}</Notice>}
      <Button size="xs" variant="default" loading={at.busy} onClick={() => at.attempt(make)}>
        Make a help report…
      </Button>
      <Modal opened={text !== undefined} onClose={() => setText(undefined)} title="Help report" size="xl">
        <p className="quiet">
          Names of people, paths through their folders, addresses and what opens something are taken out. Look it over,
          and change what else nobody should read.
        </p>
        <Textarea
          aria-label="Report"
          mb={10}
          autosize
          minRows={10}
          maxRows={22}
          styles={{ input: { fontFamily: 'var(--mono)', fontSize: 12 } }}
          value={text ?? ''}
          onChange={(event) => setText(event.currentTarget.value)}
        />
        <Buttons>
          <Copyable text={text ?? ''} what="report" />
          <Button
            size="compact-xs"
            variant="default"
            onClick={() => saveFile(`${id}-help.md`, text ?? '', 'text/markdown')}
          >
            Save
          </Button>
        </Buttons>
      </Modal>
    </>
  );
}
