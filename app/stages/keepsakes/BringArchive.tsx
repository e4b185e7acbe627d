import { Button, FileButton, Select } from '@mantine/core';
import { useEffect, useEffectEvent, useState } from 'react';
import type { OwnFile } from '#core/keepsakes';
import { IN_GAME } from '#core/keepsakes';
import { isGlob } from '#core/paths';
import { type ArchiveOffer, bringArchive, lookIntoArchive, readHandedArchives } from '~/commands';
import { counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import { useAddress } from '~/parts/use-address';
import { KIND_NAMES } from '~/parts/own-words';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import listing from '~/parts/listing.module.css';

type Into = Pick<OwnFile, 'place' | 'kind'> & { readonly folder: string };

/** Takes an archive of saves in as a keepsake: it is checked and placed first, and no file of the game is touched. */
export function BringArchive({ busy }: { busy: boolean }) {
  const { install, index } = useFrame();
  const address = useAddress();
  const { failure, busy: looking, attempt } = useAttempt();
  const [offer, setOffer] = useState<ArchiveOffer>();
  const [into, setInto] = useState<string>();
  const look = (file: File): void =>
    attempt(async () => {
      setOffer(undefined);
      setOffer(await lookIntoArchive(install, file));
    });
  const takeHanded = useEffectEvent((file: File) => look(file));
  useEffect(() => readHandedArchives(takeHanded), []);
  const places = new Map<string, Into & { label: string }>([
    ...(install.elsewhere ?? []).map(
      ({ name, title, kind }) => [name, { place: name, kind, folder: '', label: title }] as const,
    ),
    ...index.game.rules.own
      .filter(({ folder }) => !isGlob(folder))
      .map(({ folder, kind }) => [`game/${folder}`, { place: IN_GAME, kind, folder, label: folder }] as const),
  ]);
  const chosen = into === undefined ? undefined : places.get(into);
  const files = offer ? offer.fitted.length + (chosen ? offer.left.length : 0) : 0;
  const take = (whole: ArchiveOffer): void =>
    attempt(async () => {
      const id = await bringArchive(install, whole, chosen);
      setOffer(undefined);
      address.set({ keepsake: id });
    });
  return (
    <div className={listing.line}>
      <FileButton
        onChange={(file) => file && look(file)}
        accept=".zip,application/zip"
        inputProps={{ 'aria-label': 'Archive' }}
      >
        {(props) => (
          <Button {...props} size="xs" variant="default" loading={looking}>
            Open an archive
          </Button>
        )}
      </FileButton>
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {offer && (
        <>
          <Notice tone="right">
            {offer.file.name}: {counted(offer.files.length, 'file')}, each as its checksum says.{' '}
            {offer.fitted.length > 0 && `${counted(offer.fitted.length, 'file')} of this game have their place.`}
          </Notice>
          {offer.left.length > 0 && (
            <Select
              size="xs"
              label={`Where ${counted(offer.left.length, 'other file')} belong, such as ${offer.left[0]}`}
              placeholder="Leave them out"
              clearable
              data={[...places].map(([value, { label, kind }]) => ({ value, label: `${label} (${KIND_NAMES[kind]})` }))}
              value={into ?? null}
              onChange={(value) => setInto(value ?? undefined)}
            />
          )}
          <Buttons>
            <Button size="xs" disabled={busy || looking || files === 0} onClick={() => take(offer)}>
              Take {counted(files, 'file')} in as a keepsake
            </Button>
            <Button size="xs" variant="default" onClick={() => setOffer(undefined)}>
              Cancel
            </Button>
          </Buttons>
        </>
      )}
    </div>
  );
}
