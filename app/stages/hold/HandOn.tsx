import { Button, Checkbox } from '@mantine/core';
import { useState } from 'react';
import { z } from 'zod';
import { type HoldSheet, writeHoldSheet } from '#core/hold';
import { bagName } from '#core/keepsakes';
import { fileName } from '#core/paths';
import { archivePath, browserDisk, INSTALL_DISK } from '~/folders';
import { jobs } from '~/jobs';
import { bytes, counted } from '~/parts/format';
import { Notice } from '~/parts/parts';
import { saveBlob, saveFile } from '~/parts/save-file';
import { useAttempt } from '~/parts/use-attempt';
import { useFrame } from '~/parts/use-frame';
import { useQuery } from '~/queries';
import { getJob } from '~/store';

const OutcomeSchema = z.object({ without: z.array(z.string()) });

const MOST_NAMED = 5;

/** Hands a hold sheet on: alone, or with the manifests and mods that it speaks of, as the person says. */
export function HandOn({ sheet }: { sheet: HoldSheet }) {
  const { install } = useFrame();
  const [open, setOpen] = useState(false);
  const [manifests, setManifests] = useState(true);
  const [mods, setMods] = useState(false);
  const [without, setWithout] = useState<readonly string[]>([]);
  const { failure, busy, attempt } = useAttempt();
  const { value: parts } = useQuery('sheetParts', open ? [install.id, sheet] : undefined, sheet.heldAt);
  const size = parts?.mods.files.reduce((sum, [, , own]) => sum + own, 0) ?? 0;
  const pack = (): void =>
    attempt(async () => {
      const id = await jobs.start('pack-sheet', install.id, { sheet, manifests, mods });
      await jobs.ended(id);
      setWithout(OutcomeSchema.safeParse((await getJob(id))?.outcome).data?.without ?? []);
      const path = archivePath(bagName(sheet.game.id, sheet.heldAt, 'hold-sheet'));
      saveBlob(fileName(path), await browserDisk(INSTALL_DISK(install.id)).fileOf(path));
    });
  const alone = (): void =>
    saveFile(`${sheet.game.id}-${sheet.build}.hold.json`, writeHoldSheet(sheet), 'application/json');
  return (
    <>
      <Button variant="default" onClick={alone}>
        Download the sheet
      </Button>
      <details open={open} onToggle={(event) => setOpen(event.currentTarget.open)} style={{ width: '100%' }}>
        <summary>With what it speaks of</summary>
        <Checkbox
          mt={6}
          size="xs"
          label={`Manifests of its depots${parts ? `: ${parts.builds.texts.length} of ${sheet.depots.length}` : ''}`}
          checked={manifests}
          onChange={({ currentTarget }) => setManifests(currentTarget.checked)}
        />
        <Checkbox
          mt={6}
          size="xs"
          label={`Files of its mods${parts ? `: ${counted(parts.mods.catalogue.mods.length, 'release')}, ${bytes(size)}` : ''}`}
          checked={mods}
          onChange={({ currentTarget }) => setMods(currentTarget.checked)}
        />
        <p className="quiet">
          Manifests name files and their checksums, and have none of the game. Hand mods’ files on only where their
          authors allow it.
        </p>
        <Button size="xs" variant="default" disabled={busy || !parts || (!manifests && !mods)} onClick={pack}>
          Download them as an archive
        </Button>
        {without.length > 0 && (
          <Notice>
            Not in it, since not all of it is to be had here: {without.slice(0, MOST_NAMED).join(', ')}
            {without.length > MOST_NAMED && ` and ${without.length - MOST_NAMED} more`}.
          </Notice>
        )}
        {failure && <Notice tone="wrong">{failure}</Notice>}
      </details>
    </>
  );
}
