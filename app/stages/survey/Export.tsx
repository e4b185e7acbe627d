import { Button, Menu } from '@mantine/core';
import { type ListForm, writeChecksumList } from '#core/lists';
import { NOBODY, STATES } from '#core/survey';
import { toCsv } from '#core/tables';
import { count, counted } from '~/parts/format';
import { STATE_WORDS } from '~/parts/state-marks';
import { saveFile } from '~/parts/save-file';
import { groupWords } from '~/parts/stray-words';
import { query, type SurveyView } from '~/queries';
import type { Install } from '~/store';

interface Shown {
  readonly install: Install;
  readonly view: SurveyView;
  /** Rows of the table, in the order in which they are shown. */
  readonly shown: Uint32Array;
  readonly names: ReadonlyMap<string, string>;
}

function saveTable({ install, view: { table }, shown, names }: Shown): void {
  const rows = [...shown].map((i) => {
    const group = table.whose[i]!;
    return [
      table.paths[i],
      STATE_WORDS[STATES[table.states[i]!]!],
      table.sizes[i],
      table.depotIds[table.depots[i]!] ?? '',
      group === NOBODY ? '' : groupWords(table.groups[group]!, names),
    ];
  });
  const fields = ['path', 'state', 'bytes', 'depot', 'owner'];
  saveFile(`${install.id}-survey.csv`, toCsv(fields, rows), 'text/csv');
}

/** @param only the paths that go into the list; all where it is left out */
async function saveList(install: Install, form: ListForm, only?: ReadonlySet<string>): Promise<void> {
  const { files, unknown } = await query('checksums', install.id);
  const wanted = (path: string): boolean => only?.has(path) ?? true;
  const remarks = unknown.filter(wanted).map((path) => `left out, whole-file SHA-256 unknown: ${path}`);
  const listed = files.filter(({ path }) => wanted(path));
  const text = writeChecksumList({ kind: 'sha-256', files: listed }, { form, remarks });
  saveFile(`${install.id}.sha256`, text, 'text/plain');
}

async function saveMetalink({ install, view }: Shown): Promise<void> {
  const build = view.likeliest!;
  const text = await query('metalink', install.id, build, window.location.origin);
  saveFile(`${build}.meta4`, text, 'application/metalink4+xml');
}

/** Hands the list of files over: as a table, as a checksum list, or the build as it should be. */
export function Export(what: Shown) {
  const { install, view, shown } = what;
  const { table } = view;
  return (
    <Menu position="bottom-end">
      <Menu.Target>
        <Button size="xs" variant="default" ml="auto" aria-label={`Export, ${counted(shown.length, 'file')} shown`}>
          Export
        </Button>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => saveTable(what)}>{count(shown.length)} files shown, as CSV</Menu.Item>
        <Menu.Item onClick={() => void saveList(install, 'gnu', new Set([...shown].map((i) => table.paths[i]!)))}>
          {count(shown.length)} files shown, as a checksum list
        </Menu.Item>
        <Menu.Item onClick={() => void saveList(install, 'gnu')}>Whole folder as a checksum list</Menu.Item>
        <Menu.Item onClick={() => void saveList(install, 'bsd')}>Whole folder as a tagged (BSD) list</Menu.Item>
        {view.likeliest && (
          <Menu.Item onClick={() => void saveMetalink(what)}>Build {view.likeliest}, as Metalink</Menu.Item>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
