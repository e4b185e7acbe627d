import { Button } from '@mantine/core';
import { Link } from 'react-router';
import { OWN_KINDS } from '#core/builds';
import { bytes, counted } from '~/parts/format';
import { KIND_NAMES } from '~/parts/own-words';
import { Pairs, Section } from '~/parts/parts';
import { useFrame } from '~/parts/use-frame';
import type { SurveyView } from '~/queries';

/** What must not be lost, found by the game's rules. */
export function Keepsakes({ own }: { own: SurveyView['own'] }) {
  const { install } = useFrame();
  const outside = install.elsewhere?.length ?? 0;
  const rows = OWN_KINDS.flatMap((kind) => {
    const files = own.filter((file) => file.kind === kind);
    const size = files.reduce((sum, file) => sum + file.size, 0);
    return files.length > 0
      ? [{ name: KIND_NAMES[kind], value: `${counted(files.length, 'file')} · ${bytes(size)}` }]
      : [];
  });
  return (
    <>
      <Section>Saves and settings to keep</Section>
      {own.length === 0 && <p className="quiet">No saves, settings or content of your own were found in the folder.</p>}
      <Pairs
        rows={outside > 0 ? [...rows, { name: 'Outside the game’s folder', value: counted(outside, 'folder') }] : rows}
      />
      <Button component={Link} to={`/${install.id}/keepsakes`} size="xs" variant="default">
        Open Keepsakes
      </Button>
    </>
  );
}
