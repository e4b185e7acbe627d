import { Button } from '@mantine/core';
import { useState } from 'react';
import { Link } from 'react-router';
import type { ShelfOffer } from '#core/hold';
import { handFiles, type SheetArchive, shelveOffered } from '~/commands';
import { bytes, counted } from '~/parts/format';
import { Buttons, Notice } from '~/parts/parts';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';

const WHY: Record<ShelfOffer['refused'][number]['why'], string> = {
  'not-on-sheet': 'the sheet does not speak of it',
  'not-as-claimed': 'its files are not those that the sheet claims',
  incomplete: 'not all of its files are in the archive as its catalogue says',
  'other-files': 'the catalogue here has other files for it',
};

const MOST_NAMED = 8;

/** What an archive has besides its hold sheet, and how each part of it is taken over; nothing is by itself. */
export function SheetInArchive({ archive, onTaken }: { archive: SheetArchive; onTaken: () => void }) {
  const { install, index } = useFrame();
  const { failure, busy, attempt } = useAttempt();
  const [taken, setTaken] = useState<{ readonly builds: boolean; readonly shelf: boolean }>({
    ...{ builds: false, shelf: false },
  });
  const { builds, offer, sheet } = archive;
  const known = new Set(index.manifests.map(({ sha256 }) => sha256));
  const isNews = sheet.depots.some(({ manifestSha256 }) => !known.has(manifestSha256));
  const files = offer.takes.flatMap((one) => one.release.files);
  const size = files.reduce((sum, file) => sum + file.size, 0);
  const take = (part: 'builds' | 'shelf', act: () => Promise<void>) => () =>
    attempt(async () => {
      await act();
      setTaken((before) => ({ ...before, [part]: true }));
      onTaken();
    });
  return (
    <>
      {builds.length > 0 && !taken.builds && (
        <p>
          It has the manifests of {counted(sheet.depots.length, 'depot')} of {sheet.build}
          {isNews ? ', which are not known here.' : ', all of which are known here.'}
        </p>
      )}
      {offer.had > 0 && (
        <p className="quiet">{counted(offer.had, 'release')} in it can be fetched from their own catalogue.</p>
      )}
      {offer.takes.length > 0 && !taken.shelf && (
        <>
          <p>
            {counted(offer.takes.length, 'release')} in it {offer.takes.length === 1 ? 'is' : 'are'} to be had nowhere
            else: {counted(files.length, 'file')}, {bytes(size)}. On the shelf they are marked as unofficial; they go
            into the folder only when you lay them down.
          </p>
          <ul>
            {offer.takes.slice(0, MOST_NAMED).map(({ mod, release }) => (
              <li key={mod.id}>
                {mod.name} {release.version} <span className="quiet">{counted(release.files.length, 'file')}</span>
              </li>
            ))}
            {offer.takes.length > MOST_NAMED && <li>and {offer.takes.length - MOST_NAMED} more</li>}
          </ul>
        </>
      )}
      {offer.refused.length > 0 && (
        <Notice tone="wrong">
          Not taken:
          <ul>
            {offer.refused.slice(0, MOST_NAMED).map(({ name, release, why }) => (
              <li key={`${name} ${release}`}>
                {name} {release}: {WHY[why]}
              </li>
            ))}
          </ul>
        </Notice>
      )}
      {taken.shelf && (
        <Notice tone="right">
          {counted(offer.takes.length, 'release')} {offer.takes.length === 1 ? 'is' : 'are'} on the shelf.{' '}
          <Link className="link" to={`/${install.id}/history`}>
            History
          </Link>{' '}
          lists what they take.
        </Notice>
      )}
      {failure && <Notice tone="wrong">{failure}</Notice>}
      <Buttons>
        {builds.length > 0 && isNews && !taken.builds && (
          <Button
            size="xs"
            variant="default"
            disabled={busy}
            onClick={take('builds', () => handFiles(install.game, builds))}
          >
            Add the manifests of {sheet.build}
          </Button>
        )}
        {offer.takes.length > 0 && !taken.shelf && (
          <Button
            size="xs"
            variant="default"
            disabled={busy}
            onClick={take('shelf', () => shelveOffered(install, archive))}
          >
            Take {counted(offer.takes.length, 'release')} onto the shelf
          </Button>
        )}
      </Buttons>
    </>
  );
}
