import { Button, FileButton } from '@mantine/core';
import { useRef, useState } from 'react';
import { useBlocker } from 'react-router';
import { backUpAll, type BackupOffer, canBackUp, type Going, lookIntoBackup, restoreBackup } from '~/commands';
import { errorWords } from '~/parts/failure-words';
import { bytes, counted } from '~/parts/format';
import { Ago, Buttons, Notice, Section } from '~/parts/parts';

/** What is done, or was: the bytes so far while it runs. */
type State =
  | { readonly is: 'idle'; readonly said?: string; readonly failure?: string }
  | { readonly is: 'busy'; readonly doing: string; readonly bytes: number };

/** Writes all that this browser keeps into one file, and brings it in from one. */
export function Backup() {
  const [state, setState] = useState<State>({ is: 'idle' });
  const [offer, setOffer] = useState<BackupOffer>();
  const stop = useRef<AbortController>(undefined);
  const isBusy = state.is === 'busy';
  useBlocker(isBusy);
  const run = async (doing: string, work: (going: Going) => Promise<string | undefined>): Promise<void> => {
    stop.current = new AbortController();
    let done = 0;
    setState({ is: 'busy', doing, bytes: 0 });
    const progress: Going['progress'] = (some) => setState({ is: 'busy', doing, bytes: (done += some.bytes) });
    try {
      const said = await work({ signal: stop.current.signal, progress });
      setState({ is: 'idle', ...(said !== undefined && { said }) });
    } catch (error) {
      const { what, next } = errorWords(error);
      setState({ is: 'idle', failure: `${what} ${next}` });
    }
  };
  const backUp = () =>
    run('Backing up', async (going) => {
      const done = await backUpAll(going);
      return done && `Backed up ${counted(done.files, 'file')}, ${bytes(done.bytes)}.`;
    });
  const look = (file: File) =>
    run('Reading the backup', async () => {
      setOffer(await lookIntoBackup(file));
      return undefined;
    });
  const restore = (what: BackupOffer) =>
    run('Restoring', async (going) => {
      await restoreBackup(what, going);
      setOffer(undefined);
      return 'Restored: the folders are listed with their games.';
    });
  return (
    <>
      <Section>Everything in this browser</Section>
      <p className="quiet">
        A backup is one ZIP file: the browser disk, and the targets, checks, holds and mods of all folders. It has no
        sign-in, and of folders elsewhere no files.
      </p>
      {state.is === 'idle' && state.said && <Notice tone="right">{state.said}</Notice>}
      {state.is === 'idle' && state.failure && <Notice tone="wrong">{state.failure}</Notice>}
      {state.is === 'busy' ? (
        <>
          <p role="status">
            {state.doing}: {bytes(state.bytes)}
          </p>
          <Button size="xs" variant="default" onClick={() => stop.current?.abort()}>
            Cancel
          </Button>
        </>
      ) : (
        <Buttons>
          {canBackUp() && (
            <Button size="xs" variant="default" onClick={() => void backUp()}>
              Back up to a file…
            </Button>
          )}
          <FileButton
            accept=".zip"
            onChange={(file) => file && void look(file)}
            inputProps={{ 'aria-label': 'Backup to restore' }}
          >
            {(props) => (
              <Button size="xs" variant="default" {...props}>
                Restore a backup…
              </Button>
            )}
          </FileButton>
        </Buttons>
      )}
      {offer && !isBusy && <Offered offer={offer} onRestore={restore} onCancel={() => setOffer(undefined)} />}
    </>
  );
}

interface OfferedProps {
  readonly offer: BackupOffer;
  readonly onRestore: (offer: BackupOffer) => Promise<void>;
  readonly onCancel: () => void;
}

/** What a backup has, before anything of it is brought in. */
function Offered({ offer, onRestore, onCancel }: OfferedProps) {
  const { file, at, files, bytes: size, folders } = offer;
  const fresh = folders.filter(({ isHere }) => !isHere);
  return (
    <div role="group" aria-label="Backup">
      <p>
        {file.name}, <Ago at={at} />: {counted(files, 'file')}, {bytes(size)}.
      </p>
      <ul>
        {folders.map(({ id, title, isHere }) => (
          <li key={id}>
            {title}
            {isHere && <span className="quiet"> is here already and stays as it is</span>}
          </li>
        ))}
      </ul>
      <Buttons>
        <Button size="xs" disabled={fresh.length === 0} onClick={() => void onRestore(offer)}>
          Restore {counted(fresh.length, 'folder')}
        </Button>
        <Button size="xs" variant="default" onClick={onCancel}>
          Cancel
        </Button>
      </Buttons>
    </div>
  );
}
