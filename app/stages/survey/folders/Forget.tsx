import { Button } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { counted } from '~/parts/format';
import { Buttons } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { forgetInstall } from '~/services/bring-in';
import type { Install } from '~/store/records';
import { useKeepsakes } from '../use-keepsakes';

/** Takes a folder off the list; where its files are Regressum's own to keep, asks what becomes of them. */
export function Forget({ install }: { install: Install }) {
  const navigate = useNavigate();
  const [asked, setAsked] = useState(false);
  const onBrowserDisk = install.place.kind === 'browser-disk';
  const kept = useKeepsakes(install.id, undefined).length;
  const what = [onBrowserDisk && 'its files', kept > 0 && counted(kept, 'keepsake')].filter(Boolean).join(' and ');
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
        Its surveys, its hold and its trials are forgotten. {!onBrowserDisk && 'Its files stay where they are. '}
        {what && `What becomes of ${what} on the browser disk?`}
      </p>
      <Buttons>
        <Button size="xs" onClick={() => void forget(false)}>
          {what ? `Forget it, keep ${what}` : `Forget ${install.title}`}
        </Button>
        {what && (
          <Button size="xs" color="red" variant="default" onClick={() => void forget(true)}>
            Remove {what} for good
          </Button>
        )}
        <Button size="xs" variant="default" onClick={() => setAsked(false)}>
          Keep it on the list
        </Button>
      </Buttons>
    </div>
  );
}
