import { Button } from '@mantine/core';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { counted } from '~/parts/format';
import { Buttons } from '~/parts/parts';
import { placeWords } from '~/parts/place-words';
import { forgetInstall } from '~/commands';
import { useQuery } from '~/queries';
import type { Install } from '~/store';

/** Takes a folder off the list; where its files are Regressum's own to keep, asks what becomes of them. */
export function Forget({ install }: { install: Install }) {
  const navigate = useNavigate();
  const [asked, setAsked] = useState(false);
  const onBrowserDisk = install.place.kind === 'browser-disk';
  const { value: own } = useQuery('keepsakes', [install.id], 0);
  const all = own?.keepsakes.length ?? 0;
  // Those that lie with a folder elsewhere stay with it; of a served one copies may lie here. A picked one has its contents here.
  const copies = install.place.kind === 'served' ? all - (own?.uncopied.length ?? 0) : 0;
  const here = own?.lies === 'browser' ? all : copies;
  const kept = own?.lies === 'browser' ? counted(here, 'keepsake') : `${counted(here, 'copy', 'copies')} of keepsakes`;
  const what = [onBrowserDisk && 'its files', here > 0 && kept].filter(Boolean).join(' and ');
  const withGame = own?.lies === 'in-game' ? all - own.onlyCopied.size : 0;
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
          Remove {install.title} from the list
        </Button>
      </>
    );
  }
  return (
    <div role="group" aria-label={`Remove ${install.title} from the list`}>
      <p>
        Its checks, hold and trials are deleted. {!onBrowserDisk && 'Its files stay where they are. '}
        {withGame > 0 &&
          `${counted(withGame, 'keepsake')} of saves and settings ${withGame === 1 ? 'lies' : 'lie'} in it, in regressum-store, and ${withGame === 1 ? 'goes' : 'go'} where the folder is deleted. `}
        {what && `Keep or delete ${what} on the browser disk?`}
      </p>
      <Buttons>
        <Button size="xs" onClick={() => void forget(false)}>
          {what ? `Remove it, keep ${what}` : `Remove ${install.title}`}
        </Button>
        {what && (
          <Button size="xs" color="red" variant="default" onClick={() => void forget(true)}>
            Delete {what}
          </Button>
        )}
        <Button size="xs" variant="default" onClick={() => setAsked(false)}>
          Cancel
        </Button>
      </Buttons>
    </div>
  );
}
