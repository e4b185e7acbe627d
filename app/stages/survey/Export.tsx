import { Button, Menu } from '@mantine/core';
import { writeChecksumList } from '#core/lists';
import { count, counted } from '~/parts/format';
import { saveFile } from '~/parts/save-file';
import { strayWords } from '~/parts/stray-words';
import { reckon } from '~/reckoning/client';
import type { SurveyedFile } from '~/reckoning/views';
import type { Install } from '~/store/records';

async function saveTable(
  install: Install,
  files: readonly SurveyedFile[],
  names: ReadonlyMap<string, string>,
): Promise<void> {
  const { unparse } = await import('papaparse');
  const rows = files.map(({ path, state, size, depot, name }) => [
    path,
    state,
    size,
    depot ?? '',
    name ? strayWords(name, names) : '',
  ]);
  const fields = ['path', 'state', 'bytes', 'depot', 'whose'];
  saveFile(`${install.id}-survey.csv`, `${unparse({ fields, data: rows })}\r\n`, 'text/csv');
}

async function saveList(install: Install): Promise<void> {
  const { files, unknown } = await reckon('checksums', install.id);
  const remarks = unknown.map((path) => `not in this list, since its SHA-256 as a whole is not known: ${path}`);
  saveFile(`${install.id}.sha256`, writeChecksumList(files, remarks), 'text/plain');
}

/** Hands the list of files over: what is shown as a table, or the whole folder as a checksum list. */
export function Export({
  install,
  shown,
  names,
}: {
  install: Install;
  shown: readonly SurveyedFile[];
  names: ReadonlyMap<string, string>;
}) {
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Button size="xs" variant="default" ml="auto" aria-label={`Export, ${counted(shown.length, 'file')} shown`}>
          Export
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => void saveTable(install, shown, names)}>
          The {count(shown.length)} shown as CSV
        </Menu.Item>
        <Menu.Item onClick={() => void saveList(install)}>The folder as a checksum list</Menu.Item>
      </Menu.Dropdown>
    </Menu>
  );
}
