import { Button } from '@mantine/core';
import { decideOnCopies } from '~/commands';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Buttons } from '~/parts/parts';
import parts from '~/parts/parts.module.css';
import { useFrame } from '~/parts/use-frame';
import { type KeepsakesView, useQuery } from '~/queries';
import type { Install } from '~/store';
import listing from '~/parts/listing.module.css';
import styles from './keepsakes.module.css';

/** Whether nobody has said yet what becomes of keepsakes that go with the game's folder. */
export const isAskedAboutCopies = ({ lies, keepsakes }: KeepsakesView, { keepsakeCopies }: Install): boolean =>
  lies === 'in-game' && keepsakeCopies === undefined && keepsakes.length > 0;

function whereWords({ lies, uncopied, keepsakes }: KeepsakesView, { place }: Install): string {
  if (lies === 'browser')
    return place.kind === 'served' || place.kind === 'picked'
      ? 'These are what this browser has. The store with the game’s folder cannot be read just now.'
      : 'This browser. Download one as an archive to have it elsewhere too.';
  const copied = keepsakes.length - uncopied.length;
  const where = lies === 'in-game' ? 'The game’s folder, in regressum-store' : 'A folder apart from the game’s';
  return `${where}${copied > 0 ? `, and ${counted(copied, 'copy', 'copies')} in this browser` : ''}.`;
}

/** Where keepsakes lie, and to have a copy of each apart from the game's folder, which others may delete. */
export function KeptIn({ view, now, busy }: { view: KeepsakesView; now: number; busy: boolean }) {
  const { install } = useFrame();
  const { lies, uncopied } = view;
  const asks = isAskedAboutCopies(view, install);
  const isWanted = install.keepsakeCopies === 'kept' && lies !== 'browser';
  const mayWant = install.keepsakeCopies === 'refused' && lies === 'in-game';
  const { value: comes } = useQuery(
    'keepsakesToCopy',
    (asks || isWanted) && uncopied.length > 0 ? [install.id] : undefined,
    now,
  );
  const size = comes && comes.bytes > 0 ? ` (${bytes(comes.bytes)})` : '';
  const what = `${counted(uncopied.length, 'keepsake')}${size}`;
  const decide = (copies: 'kept' | 'refused') => () => void decideOnCopies(install.id, copies);
  return (
    <>
      <div className={`label ${parts.heading}`}>Kept in</div>
      <div className={`${listing.line} ${styles.where}`}>
        <p>{whereWords(view, install)}</p>
        {asks && (
          <p className="quiet">Whoever deletes that folder, an uninstaller perhaps, deletes them with it: {what}.</p>
        )}
        {isWanted && uncopied.length > 0 && (
          <p className="quiet">
            {what} {uncopied.length === 1 ? 'is' : 'are'} not copied yet.
          </p>
        )}
        <Buttons>
          {(asks || mayWant) && (
            <Button size="xs" variant="default" disabled={busy} onClick={decide('kept')}>
              Keep copies in this browser too
            </Button>
          )}
          {asks && (
            <Button size="xs" variant="default" onClick={decide('refused')}>
              No copies
            </Button>
          )}
          {isWanted && uncopied.length > 0 && (
            <Button
              size="xs"
              variant="default"
              disabled={busy}
              onClick={() => void jobs.start('copy-keepsakes', install.id)}
            >
              Copy {uncopied.length === 1 ? 'it' : 'them'} now
            </Button>
          )}
          {isWanted && (
            <Button size="xs" variant="default" onClick={decide('refused')}>
              Copy no more
            </Button>
          )}
        </Buttons>
      </div>
    </>
  );
}
