import { useMantineColorScheme } from '@mantine/core';
import '@mantine/spotlight/styles.css';
import { Spotlight, spotlight, type SpotlightActionData } from '@mantine/spotlight';
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { jobs } from '~/jobs';
import { useAddress } from '~/parts/use-address';
import type { FrameView } from '~/queries';
import { STAGES } from './stages';

/** Everything that can be done from anywhere, by name. */
export default function Palette({
  view,
  asked,
  showStanding,
}: {
  view: FrameView;
  asked: number;
  showStanding: () => void;
}) {
  // Mounted at the first asking, so that its code is loaded only then; each later asking opens it again.
  useEffect(() => spotlight.open(), [asked]);
  const navigate = useNavigate();
  const address = useAddress();
  const { setColorScheme } = useMantineColorScheme();
  const { id } = view.install;
  const action = (label: string, onClick: () => unknown, description?: string): SpotlightActionData => ({
    id: label,
    label,
    onClick: () => void onClick(),
    ...(description ? { description } : {}),
  });
  const actions = [
    ...STAGES.map((stage) => action(`Open ${stage.title}`, () => navigate(`/${id}/${stage.id}`))),
    action('Check every file', () => jobs.start('survey', id), 'Read every file and compare it with all known builds'),
    action(
      'Start the game',
      () => jobs.start('start', id),
      'See whether it reaches the title screen, and which mods load',
    ),
    action('Where things stand', showStanding, 'What is held, what has drifted, what came out, what waits'),
    action('Add mods', () => navigate(`/${id}/mods`), 'From the folder, a table, the catalogue, a sheet, by hand'),
    action('Open the load order', () => navigate(`/${id}/order`), 'Which mod is loaded when, and which file counts'),
    action(
      'Carry mods forward',
      () => navigate(`/${id}/carry`),
      'Merge mods that nobody updated with the game’s files',
    ),
    action('Find what breaks it', () => navigate(`/${id}/narrow`), 'Switch mods off and on, with the fewest starts'),
    action('Open Shelf', () => navigate(`/${id}/shelf`), 'Copies of mods, and archives of new ones'),
    action('Open Keepsakes', () => navigate(`/${id}/keepsakes`), 'Copies of saves, settings and own content'),
    action('Keep saves and settings now', () => jobs.start('keepsake', id)),
    action(
      'Open the proof',
      () => navigate(`/${id}/proof`),
      'What lies in the folder, held against what should, to print or keep',
    ),
    action('Open Profiles', () => navigate(`/${id}/profiles`), 'Switch between choices of build, mods and saves'),
    action('Open History', () => navigate(`/${id}/history`), 'What changed in the folder, and what lies on the drive'),
    action('Add a folder', () => navigate(`/${id}/folders`)),
    action('Compare checksums in a log', () => navigate(`/${id}/log`)),
    ...(view.service ? [action('Open the stand-ins', () => address.set({ panel: 'stand-ins' }))] : []),
    action('Your games', () => navigate('/games')),
    ...view.builds.map(({ label, running }) =>
      action(
        `Show build ${label}`,
        () => address.set({ build: label }),
        running === undefined ? '' : `${running} mods run`,
      ),
    ),
    action('Light colours', () => setColorScheme('light')),
    action('Dark colours', () => setColorScheme('dark')),
    action('Match system colours', () => setColorScheme('auto')),
  ];
  return (
    <Spotlight
      actions={actions}
      nothingFound="No such command"
      searchProps={{ placeholder: 'Find a command', 'aria-label': 'Find a command' }}
      shortcut={null}
    />
  );
}
