import { Button } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { Buttons } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { forgetInstall } from '~/services/bring-in';
import type { Install } from '~/store/records';

/** Takes a folder off the list; where its files are Regressum's own to keep, asks what becomes of them. */
export function Forget({ install }: { install: Install }) {
  const navigate = useNavigate();
  const [asked, setAsked] = useState(false);
  const onBrowserDisk = install.place.kind === 'browser-disk';
  const forget = async (withFiles: boolean): Promise<void> => {
    await forgetInstall(install.id, withFiles);
    await navigate('/');
  };
  if (!asked) {
    return (
      <>
        <p className="quiet">
          {install.folder} · {placeWords(install.place)}
        </p>
        <Button size="xs" variant="default" onClick={() => setAsked(true)}>
          Take {install.title} off the list
        </Button>
      </>
    );
  }
  return (
    <div role="group" aria-label={`Take ${install.title} off the list`}>
      <p>
        Its surveys, its hold and its trials are forgotten.{' '}
        {onBrowserDisk ? 'What becomes of its files on the browser disk?' : 'Its files stay where they are.'}
      </p>
      <Buttons>
        <Button size="xs" onClick={() => void forget(false)}>
          {onBrowserDisk ? 'Forget it, keep its files' : `Forget ${install.title}`}
        </Button>
        {onBrowserDisk && (
          <Button size="xs" color="red" variant="default" onClick={() => void forget(true)}>
            Remove its files for good
          </Button>
        )}
        <Button size="xs" variant="default" onClick={() => setAsked(false)}>
          Keep it on the list
        </Button>
      </Buttons>
    </div>
  );
}
