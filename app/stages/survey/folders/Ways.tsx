import { Button, FileButton, Textarea } from '@mantine/core';
import { type ReactNode, useRef, useState } from 'react';
import { Way, WayColumns } from '~/parts/Way';
import { canPick, droppedFolder, type FolderOffer, inputFolder, listFile, pickFolder } from '~/services/offers';
import styles from './folders.module.css';
import { ServedWay } from './ServedWay';

type OnOffer = (offer: Promise<FolderOffer | undefined>) => void;

function HandOver({ onOffer }: { onOffer: OnOffer }) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <input
        ref={(element) => {
          input.current = element;
          // React has no name for it in its types; it makes the input ask for a folder.
          element?.setAttribute('webkitdirectory', '');
        }}
        type="file"
        multiple
        hidden
        aria-label="Folder to hand over"
        onChange={({ currentTarget }) =>
          currentTarget.files && onOffer(Promise.resolve(inputFolder(currentTarget.files)))
        }
      />
      <Button variant="default" onClick={() => input.current?.click()}>
        Hand a folder over
      </Button>
    </>
  );
}

function PasteList({ onOffer }: { onOffer: OnOffer }) {
  const [text, setText] = useState('');
  const bytes = (): Uint8Array => new TextEncoder().encode(text);
  return (
    <>
      <FileButton onChange={(file) => file && onOffer(listFile(file))} inputProps={{ 'aria-label': 'Checksum list' }}>
        {(props) => (
          <Button variant="default" {...props}>
            Choose a checksum list
          </Button>
        )}
      </FileButton>
      <Textarea
        mt={8}
        label="or paste it"
        rows={4}
        classNames={{ input: 'mono' }}
        placeholder={`e3b0c442…  bin/ferrywake.prog`}
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      <Button
        mt={8}
        variant="default"
        disabled={text.trim() === ''}
        onClick={() => onOffer(Promise.resolve({ kind: 'list', name: 'pasted list', bytes: bytes() }))}
      >
        Read the pasted list
      </Button>
    </>
  );
}

/** The ways to point at a folder, side by side, each with what it can and cannot do in this browser. */
export function Ways({ onOffer, failure }: { onOffer: OnOffer; failure: ReactNode }) {
  const [over, setOver] = useState(false);
  return (
    <div
      className={styles.ways}
      data-over={over || undefined}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        onOffer(droppedFolder(event.dataTransfer));
      }}
    >
      <h2 className={styles.title}>Bring in a folder</h2>
      <p className="quiet">
        Drop a game folder or a checksum list anywhere here, or take one of these ways. Nothing in the folder is
        changed.
      </p>
      {failure}
      <WayColumns>
        <Way
          title="Pick it"
          can="Remembered: the next visit opens it again once you allow it. Read file by file, as large as it is."
          cannot="Browsers refuse the folders of the system, where programs are often installed. Hand it over or make a list then."
        >
          {canPick() ? (
            <Button onClick={() => onOffer(pickFolder())}>Pick a folder</Button>
          ) : (
            <p className="quiet">This browser cannot pick folders. Hand it over instead.</p>
          )}
        </Way>
        <Way
          title="Hand it over"
          can="Works in every browser, with any folder. The browser asks whether to “upload” it: nothing leaves this machine."
          cannot="Known until this page is loaded anew; then it has to be handed over again."
        >
          <HandOver onOffer={onOffer} />
        </Way>
        <Way
          title="Have it served"
          can="The server on this machine reads it, the folders of the system too, and hashes natively: the fastest way."
          cannot="Off until Regressum is started with REGRESSUM_ROOTS=/path/to/the/game."
        >
          <ServedWay onOffer={onOffer} />
        </Way>
        <Way
          title="Only a list"
          can={
            <>
              For folders that no browser may read. Run this in the game’s folder, and bring in what it writes:
              <pre className={styles.command}>{'find . -type f -exec sha256sum {} + > folder.sums'}</pre>
            </>
          }
          cannot="Tells which files are right; the sizes of unknown ones stay unknown."
        >
          <PasteList onOffer={onOffer} />
        </Way>
      </WayColumns>
    </div>
  );
}
