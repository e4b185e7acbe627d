import { Button } from '@mantine/core';
import { folderOf } from '#core/paths';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { type MisplacedView, useQuery } from '~/queries';
import { counted } from './format';
import { Buttons, Notice } from './parts';
import { useFrame } from './use-frame';

/** Where the files come from and go to, by the folders of the first of them. */
function moveLine({ moves }: MisplacedView): string {
  const [from, to] = moves[0]!;
  return `${folderOf(from) || from} → ${folderOf(to) || 'the game’s folder'}`;
}

/**
 * Mods that lie in the wrong place, to be put right by one click each.
 * @param since changes when the folder has been read anew
 */
export function Misplaced({ install, busy, since }: { install: string; busy: boolean; since: string | number }) {
  const job = useLatestJob(install, 'move-files');
  const { value: all = [] } = useQuery('misplaced', [install], `${since} ${job?.record.state}`);
  const { held } = useFrame();
  const stuck = busy || held !== undefined || (job !== undefined && isUnderWay(job));
  return all.map((one) => (
    <Notice key={`${one.name} ${one.moves[0]![0]}`}>
      {one.name} lies in the wrong place: {counted(one.moves.length, 'file')}, {moveLine(one)}
      <Buttons>
        <Button
          size="xs"
          disabled={stuck}
          onClick={() => void jobs.start('move-files', install, { name: one.name, moves: one.moves })}
        >
          Move {one.name} there
        </Button>
      </Buttons>
    </Notice>
  ));
}
