import { Button, Select } from '@mantine/core';
import { useState } from 'react';
import type { OwnKind } from '#core/builds';
import { fileName } from '#core/paths';
import { canPick, forgetElsewhere, type FolderOffer, pickFolder, pointAtElsewhere } from '~/commands';
import { browserDisk, INSTALL_DISK } from '~/folders';
import { useFrame } from '~/parts/use-frame';
import { isUnderWay, jobs, useLatestJob } from '~/jobs';
import { ServedWay } from '~/parts/add-folder/ServedWay';
import { bytes, counted } from '~/parts/format';
import { Ago, Notice, Pairs, Section } from '~/parts/parts';
import { saveBlob } from '~/parts/save-file';
import { useAttempt } from '~/parts/use-attempt';
import type { SurveyView } from '~/queries';
import { useKeepsakes } from './use-keepsakes';

const KINDS: readonly { kind: OwnKind; name: string }[] = [
  { kind: 'saves', name: 'Saves' },
  { kind: 'settings', name: 'Settings' },
  { kind: 'content', name: 'Own content' },
];

const NAMES: Record<OwnKind, string> = { saves: 'saves', settings: 'settings', content: 'own content' };

/** Points at a folder outside the game's, where many games keep saves. */
function PointElsewhere({ install, served }: { install: string; served: boolean }) {
  const { failure, attempt } = useAttempt();
  const [kind, setKind] = useState<OwnKind>('saves');
  const take = (offer: Promise<FolderOffer | undefined>): void =>
    attempt(async () => {
      const what = await offer;
      if (what) await pointAtElsewhere(install, kind, what);
    });
  return (
    <details>
      <summary>They lie outside the game’s folder</summary>
      <Select
        size="xs"
        label="What lies there"
        data={KINDS.map(({ kind: value, name: label }) => ({ value, label }))}
        value={kind}
        allowDeselect={false}
        onChange={(value) => setKind(KINDS.find((one) => one.kind === value)!.kind)}
      />
      {failure && <Notice tone="wrong">{failure}</Notice>}
      {served && <ServedWay onOffer={take} act={(name) => `Keep ${name} too`} quiet />}
      {canPick() && (
        <Button mt={8} size="xs" variant="default" onClick={() => take(pickFolder())}>
          Choose the folder
        </Button>
      )}
    </details>
  );
}

async function save(install: string, path: string): Promise<void> {
  // A reference to the file: a keepsake of many gigabytes never lies in memory.
  saveBlob(fileName(path), await browserDisk(INSTALL_DISK(install)).fileOf(path));
}

/** What must not be lost, found by the game's rules, and the copies that were made of it. */
export function Keepsakes({ own }: { own: SurveyView['own'] }) {
  const { install } = useFrame();
  const job = useLatestJob(install.id, 'keepsake');
  const made = useKeepsakes(install.id, job?.record.state);
  const elsewhere = install.elsewhere ?? [];
  const rows = KINDS.flatMap(({ kind, name }) => {
    const files = own.filter((file) => file.kind === kind);
    const size = files.reduce((sum, file) => sum + file.size, 0);
    return files.length > 0 ? [{ name, value: `${counted(files.length, 'file')} · ${bytes(size)}` }] : [];
  });
  const busy = job !== undefined && isUnderWay(job);
  return (
    <>
      <Section>Saves and settings to keep</Section>
      {own.length === 0 && elsewhere.length === 0 ? (
        <p className="quiet">No saves, settings or content of your own were found.</p>
      ) : (
        <>
          <Pairs rows={rows} />
          {elsewhere.map(({ kind, title }, i) => (
            <p key={i}>
              All of {title}, outside the game’s folder: {NAMES[kind]}{' '}
              <Button size="compact-xs" variant="default" onClick={() => void forgetElsewhere(install.id, i)}>
                Leave out {title}
              </Button>
            </p>
          ))}
          {install.place.kind !== 'list' && (
            <Button
              size="xs"
              variant="default"
              disabled={busy}
              onClick={() => void jobs.start('keepsake', install.id, { date: new Date().toISOString() })}
            >
              Keep a copy of {elsewhere.length > 0 ? 'all of it' : counted(own.length, 'file')}
            </Button>
          )}
        </>
      )}
      {install.place.kind !== 'list' && (
        <PointElsewhere install={install.id} served={install.place.kind === 'served'} />
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
