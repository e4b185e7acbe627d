import { Button, TextInput } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import { useFrame } from '~/parts/use-frame';
import { errorWords } from '~/parts/failure-words';
import { counted } from '~/parts/format';
import { Notice, Section } from '~/parts/parts';
import { query } from '~/queries';
import { broadcast } from '~/store';

/** Records what lies in the folder as a build of its own, where no known build is what lies there. */
export function RecordBuild({ departs }: { departs: boolean }) {
  const { install } = useFrame();
  const [label, setLabel] = useState('');
  const [done, setDone] = useState<string>();
  const [failure, setFailure] = useState<string>();
  const name = label.trim();
  const record = async (): Promise<void> => {
    try {
      const files = await query('recordFolder', install.id, name);
      setDone(`${counted(files, 'file')} recorded as ${name}.`);
      setLabel('');
      broadcast({ type: 'changed' });
    } catch (error) {
      setFailure(errorWords(error).what);
    }
  };
  return (
    <>
      <Section>Unlisted builds</Section>
      {departs && (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void record();
          }}
        >
          <p className="quiet">
            If the game runs from this folder, record it as a build under a label of your own. It is recognised from
            then on.
          </p>
          <TextInput
            size="xs"
            label="Label"
            placeholder="1.4 of the disc"
            maxLength={40}
            value={label}
            onChange={(event) => setLabel(event.currentTarget.value)}
          />
          <Button mt={6} size="xs" variant="default" type="submit" disabled={name === ''}>
            Record this folder{name && ` as ${name}`}
          </Button>
        </form>
      )}
      {done && <Notice tone="right">{done}</Notice>}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <p>
        <Link className="link" to={`/${install.id}/log`}>
          Read a log, or view recorded builds
        </Link>
      </p>
    </>
  );
}
