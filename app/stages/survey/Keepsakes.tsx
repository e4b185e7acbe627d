import { Button } from '@mantine/core';
import type { OwnKind } from '#core/builds';
import { fileName } from '#core/paths';
import { fileOnBrowserDisk, INSTALL_DISK } from '~/folders';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Ago, Pairs, Section } from '~/parts/parts';
import { saveBlob } from '~/parts/save-file';
import type { SurveyView } from '~/queries';
import { useKeepsakes } from './use-keepsakes';

const KINDS: readonly { kind: OwnKind; name: string }[] = [
  { kind: 'saves', name: 'Saves' },
  { kind: 'settings', name: 'Settings' },
  { kind: 'content', name: 'Own content' },
];

async function save(install: string, path: string): Promise<void> {
  // A reference to the file: a keepsake of many gigabytes never lies in memory.
  saveBlob(fileName(path), await fileOnBrowserDisk(INSTALL_DISK(install), path));
}

/** What must not be lost, found by the game's rules, and the copies that were made of it. */
export function Keepsakes({ own }: { own: SurveyView['own'] }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keepsake');
  const made = useKeepsakes(install.id, job?.record.state);
  const rows = KINDS.flatMap(({ kind, name }) => {
    const files = own.filter((file) => file.kind === kind);
    const size = files.reduce((sum, file) => sum + file.size, 0);
    return files.length > 0 ? [{ name, value: `${counted(files.length, 'file')} · ${bytes(size)}` }] : [];
  });
  const busy = job !== undefined && isUnderWay(job);
  return (
    <>
      <Section>Saves and settings to keep</Section>
      {own.length === 0 ? (
        <p className="quiet">No saves, settings or content of your own were found.</p>
      ) : (
        <>
          <Pairs rows={rows} />
          {install.place.kind !== 'list' && (
            <Button
              size="xs"
              variant="default"
              disabled={busy}
              onClick={() => void jobs.start('keepsake', install.id, { date: new Date().toISOString() })}
            >
              Keep a copy of {counted(own.length, 'file')}
            </Button>
          )}
        </>
      )}
      {made.map(({ path, size, modified }) => (
        <div key={path} style={{ marginTop: 6 }}>
          <Button size="compact-xs" variant="default" onClick={() => void save(install.id, path)}>
            Download the keepsake
          </Button>{' '}
          <span className="quiet">
            of <Ago at={modified} />, {bytes(size)}
          </span>
        </div>
      ))}
    </>
  );
}
