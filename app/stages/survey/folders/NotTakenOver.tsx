import { Button } from '@mantine/core';
import type { MirrorState } from '~/changes';
import { mirrorOver } from '~/commands';
import { Notice } from '~/parts/parts';
import type { Install } from '~/store';

const WHY: Record<Exclude<MirrorState, 'own'>, string> = {
  newer: 'A newer version of Regressum keeps its decisions in this folder’s store. They were not taken over',
  'other-game': 'This folder’s store keeps decisions that were made for another game. They were not taken over',
  unreadable: 'The decisions in this folder’s store cannot be read. They were not taken over',
};

/** That what lies in the folder's store was left alone, and where decisions are kept instead. */
export function NotTakenOver({ install, state }: { install: Install; state: MirrorState | undefined }) {
  if (state === undefined || state === 'own') return null;
  if (install.mirrorsOver && state !== 'newer')
    return <Notice>With the next change of this folder, your decisions replace what its store keeps now.</Notice>;
  return (
    <Notice>
      {WHY[state]} and stay as they are; what you decide here is kept in this browser only.{' '}
      {state !== 'newer' && (
        <Button size="compact-sm" variant="default" onClick={() => void mirrorOver(install.id)}>
          Replace them with mine
        </Button>
      )}
    </Notice>
  );
}
