import { TextInput } from '@mantine/core';
import { type ReactNode, useState } from 'react';
import { useNavigate } from 'react-router';
import type { DepotIndex, Ownership } from '#core/builds';
import { Notice } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { bringInOffer, type FolderOffer, type NewFolder } from '~/commands';
import { OwnershipForm } from './OwnershipForm';
import { Ways } from './Ways';

/**
 * Adding a folder: the ways to point at one, and what is said of it before. It opens as soon as it is there.
 * @param usual what of it is proposed
 */
export function useAdding(
  index: DepotIndex,
  usual: Pick<NewFolder, 'ownership' | 'weights'>,
): { ways: ReactNode; form: ReactNode } {
  const navigate = useNavigate();
  const [title, setTitle] = useState('');
  const [ownership, setOwnership] = useState<Ownership>(usual.ownership);
  const { failure, attempt } = useAttempt();

  const bringIn = (offer: Promise<FolderOffer | undefined>): void =>
    attempt(async () => {
      const what = await offer;
      // The person closed the picker without picking.
      if (!what) return;
      const folder = { game: index.game.id, title: title.trim() || what.name, folder: what.name };
      const id = await bringInOffer(what, { ...folder, ownership, weights: usual.weights });
      await navigate(`/${id}/survey`);
    });

  return {
    ways: <Ways onOffer={bringIn} failure={failure && <Notice tone="wrong">{failure}</Notice>} />,
    form: (
      <>
        <h2 style={{ fontSize: 16 }}>The folder to add</h2>
        <p className="quiet">Set this first: it decides which depots belong in the folder.</p>
        <TextInput
          label="Name"
          placeholder="Name of the folder"
          value={title}
          onChange={(event) => setTitle(event.currentTarget.value)}
        />
        <OwnershipForm index={index} ownership={ownership} onChange={setOwnership} />
      </>
    ),
  };
}
