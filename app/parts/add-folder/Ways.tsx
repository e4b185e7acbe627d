import { Button, FileButton, Textarea } from '@mantine/core';
import { type ReactNode, useRef, useState } from 'react';
import { Way, WayColumns } from '~/parts/Way';
import { canPick, droppedFolder, type FolderOffer, inputFolder, listFile, pickFolder } from '~/commands';
import styles from './add-folder.module.css';
import { ServedWay } from './ServedWay';

type OnOffer = (offer: Promise<FolderOffer | undefined>) => void;

/** Opens a folder through the platform's own input: in every browser, for as long as the page is there. */
export function HandOver({
  onOffer,
  label = 'Open a folder once',
  of = 'Folder to open once',
}: {
  onOffer: OnOffer;
  label?: string;
  of?: string;
}) {
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
        aria-label={of}
        onChange={({ currentTarget }) =>
          currentTarget.files && onOffer(Promise.resolve(inputFolder(currentTarget.files)))
        }
      />
      <Button variant="default" onClick={() => input.current?.click()}>
        {label}
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
        placeholder="e3b0c442…  bin/game.prog"
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
      <h2 className={styles.title}>Add a folder</h2>
      <p className="quiet">
        Drop a game folder or a checksum list here, or choose one of these ways. Nothing in the folder is changed.
      </p>
      {failure}
      <WayColumns>
        <Way
          title="Choose a folder"
          can="Remembered: your next visit opens it again after you allow it. Any size."
          cannot="Browsers refuse system folders, where programs are often installed. Use another way for those."
        >
          {canPick() ? (
            <Button onClick={() => onOffer(pickFolder())}>Choose a folder</Button>
          ) : (
            <p className="quiet">This browser cannot choose folders. Open it once instead.</p>
          )}
        </Way>
        <Way
          title="Open it once"
          can="Works in every browser and with any folder. The browser asks to “upload” it; nothing leaves this machine."
          cannot="Forgotten when the page reloads; you then open it again."
        >
          <HandOver onOffer={onOffer} />
        </Way>
        <Way
          title="Use the local server"
          can="The server on this machine reads it, system folders included. The fastest way."
          cannot={
            <>
              Off unless Regressum was started with <span className={styles.word}>npm start -- --folder DIR</span>. Add{' '}
              <span className={styles.word}>--write</span> to change the folder too.
            </>
          }
        >
          <ServedWay onOffer={onOffer} />
        </Way>
        <Way
          title="Checksum list only"
          can={
            <>
              For folders that no browser may read. Run this in the game’s folder and add the file it writes:
              <pre className={styles.command}>{'find . -type f -exec sha256sum {} + > folder.sums'}</pre>
            </>
          }
          cannot="Tells which files match; the sizes of unknown ones stay unknown."
        >
          <PasteList onOffer={onOffer} />
        </Way>
      </WayColumns>
    </div>
  );
}
