import { Modal, Table } from '@mantine/core';
import { STAGES } from './stages';

const WORDS: readonly (readonly [string, string])[] = [
  ...STAGES.map(({ key, title }) => [key.toUpperCase(), `Open ${title}`] as const),
  ['O', 'Open the load order'],
  ['Alt ↑, Alt ↓', 'In the load order: move the selected mod'],
  ['L', 'Open Shelf'],
  ['P', 'Open Keepsakes'],
  ['R', 'Open Profiles'],
  ['Y', 'Open History'],
  ['T', 'Open or close the stand-ins'],
  ['J, K', 'Move down or up the list; Enter opens'],
  ['/', 'Filter the list'],
  ['N, D', 'In Mend: select the next step; do the selected one'],
  ['B', 'Go to the build line; left and right select a build'],
  ['Ctrl K', 'Find a command'],
  ['?', 'Show these keys'],
];

export default function KeyHelp({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Modal opened={open} onClose={close} title="Keys" closeButtonProps={{ 'aria-label': 'Close the list of keys' }}>
      <Table data={{ head: ['Key', 'What it does'], body: WORDS.map((row) => [...row]) }} />
    </Modal>
  );
}
