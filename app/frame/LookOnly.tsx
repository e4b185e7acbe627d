import { Button } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { Link, useRevalidator } from 'react-router';
import { Buttons, Empty, Notice } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { askFor, type Changing } from '~/places';
import type { Install } from '~/store';

/** In place of the stages that change a folder, where it cannot be changed now. */
export default function LookOnly({ install, changing }: { install: Install; changing: Changing }) {
  const { folder, place } = install;
  const survey = (
    <Button component={Link} to={`/${install.id}/survey`} {...(place.kind === 'picked' && { variant: 'default' })}>
      Survey {folder}
    </Button>
  );
  return (
    <main>
      {place.kind === 'picked' ? (
        <AskToChange folder={folder} place={place} survey={survey} />
      ) : changing !== 'look-only' ? (
        <Empty title={`${folder} cannot be changed for now`}>
          What to do is said above. What was under way goes on from where it stopped.
        </Empty>
      ) : (
        <Empty title={`${folder} is read-only here`} action={survey}>
          This folder ({placeWords(place)}) can be checked and compared.{' '}
          {place.kind === 'served'
            ? 'To change it, start the server with --write.'
            : 'To change it, let the server of this machine serve it: npm start -- --folder DIR --write.'}
        </Empty>
      )}
    </main>
  );
}

interface AskToChangeProps {
  readonly folder: string;
  readonly place: Extract<Install['place'], { kind: 'picked' }>;
  readonly survey: ReactNode;
}

/** A picked folder may be changed once the person has said so to the browser, which asks only on a click. */
function AskToChange({ folder, place, survey }: AskToChangeProps) {
  const { revalidate } = useRevalidator();
  const [refused, setRefused] = useState(false);
  const ask = async (): Promise<void> => {
    setRefused(!(await askFor(place, 'readwrite')));
    await revalidate();
  };
  return (
    <Empty
      title={`Allow changes to ${folder}`}
      action={
        <Buttons>
          <Button onClick={() => void ask()}>Allow changes</Button>
          {survey}
        </Buttons>
      }
    >
      The browser lets Regressum read this folder, not change it. Once you allow it, only files that differ are changed,
      and what was there before is kept in {place.store ? place.store.name : 'regressum-store inside the folder'}. The
      browser inspects programs and archives as they are written, which takes up to a second each: for a whole game,{' '}
      <code>npm start -- --folder DIR --write</code> is faster.
      {refused && <Notice tone="wrong">The browser did not allow it. The folder stays as it is.</Notice>}
    </Empty>
  );
}
