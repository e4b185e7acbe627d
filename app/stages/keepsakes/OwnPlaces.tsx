import { Button, Checkbox, Select } from '@mantine/core';
import { useState } from 'react';
import { OWN_KINDS, type OwnKind } from '#core/builds';
import { IN_GAME } from '#core/keepsakes';
import { canPick, forgetElsewhere, type FolderOffer, noteSynced, pickFolder, pointAtElsewhere } from '~/commands';
import { ServedWay } from '~/parts/add-folder/ServedWay';
import { failureWords } from '~/parts/failure-words';
import { bytes, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { KIND_NAMES } from '~/parts/own-words';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import type { KeepsakesView, OwnPlaceView } from '~/queries';
import listing from '~/parts/listing.module.css';
import styles from './keepsakes.module.css';

/** Points at a folder outside the game's, where many games keep saves. */
function PointElsewhere() {
  const { install } = useFrame();
  const { failure, attempt } = useAttempt();
  const [kind, setKind] = useState<OwnKind>('saves');
  const served = install.place.kind === 'served';
  const take = (offer: Promise<FolderOffer | undefined>): void =>
    attempt(async () => {
      const what = await offer;
      if (what) await pointAtElsewhere(install.id, kind, what);
    });
  return (
    <details className={listing.line}>
      <summary>Add a folder outside the game’s</summary>
      <Select
        size="xs"
        label="What it has"
        data={OWN_KINDS.map((value) => ({ value, label: KIND_NAMES[value] }))}
        value={kind}
        allowDeselect={false}
        onChange={(value) => setKind(OWN_KINDS.find((one) => one === value)!)}
      />
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {served && <ServedWay onOffer={take} act={(name) => `Keep ${name} too`} quiet />}
      {!served && canPick() && (
        <Button mt={8} size="xs" variant="default" onClick={() => take(pickFolder())}>
          Choose the folder
        </Button>
      )}
    </details>
  );
}

function Place({ place }: { place: OwnPlaceView }) {
  const { install } = useFrame();
  const { name, title, kind, files, bytes: size, synced, failure } = place;
  return (
    <div className={styles.place}>
      <div>
        <b>{name === IN_GAME ? 'In the game’s folder' : title}</b>
        <div className="quiet">
          {kind && `${KIND_NAMES[kind]} · `}
          {failure ? failureWords(failure).what : `${counted(files, 'file')} · ${bytes(size)}`}
        </div>
      </div>
      {name !== IN_GAME && (
        <>
          <Checkbox
            size="xs"
            label="A cloud service synchronises it"
            checked={synced}
            onChange={({ currentTarget }) => void noteSynced(install.id, name, currentTarget.checked)}
          />
          <Button size="compact-xs" variant="default" onClick={() => void forgetElsewhere(install.id, name)}>
            Leave it out from now on
          </Button>
        </>
      )}
    </div>
  );
}

/** Where the player's own files lie, and how many there are now. */
export function OwnPlaces({ view }: { view: KeepsakesView }) {
  const { install } = useFrame();
  return (
    <>
      <div className={`label ${parts.heading}`}>Kept from</div>
      {view.places.map((place) => (
        <Place key={place.name} place={place} />
      ))}
      {install.place.kind !== 'list' && <PointElsewhere />}
    </>
  );
}
