import { Button } from '@mantine/core';
import type { ReactNode } from 'react';
import { canPick, type FolderOffer, pickFolder } from '~/commands';
import { ServedWay } from '~/parts/add-folder/ServedWay';

/** Names a folder by one of the ways in which it can be changed: the browser's picker, or the local server. */
export function WhereTo({
  onOffer,
  served,
  picked,
  act,
  more,
}: {
  onOffer: (offer: Promise<FolderOffer | undefined>) => void;
  /** Whether the local server is offered. */
  served: boolean;
  /** What the button of the picker says; left out where the picker is no way. */
  picked: string | undefined;
  /** What the local server's button says of a folder. */
  act: (name: string) => string;
  more?: ReactNode;
}) {
  return (
    <>
      {more}
      {picked !== undefined && canPick() && (
        <Button mt={8} mr={8} size="xs" variant="default" onClick={() => onOffer(pickFolder('readwrite'))}>
          {picked}
        </Button>
      )}
      {served && <ServedWay onOffer={onOffer} act={act} quiet />}
    </>
  );
}
