import { asBuild, asDepot, DepotIndexSchema } from '#core/builds';
import { parseHoldSheet } from '#core/hold';
import { parseJson } from '#core/json';
import { digestsInText, parseChecksumList } from '#core/lists';
import { parseMetalink } from '#core/manifest';
import { type Catalogue, CatalogueSchema } from '#core/mods';
import { kindOfText } from '#core/recognise';
import { guessColumns, readModTable } from '#core/tables';
import { readRawTable } from './raw-table';

const NO_MODS: Catalogue = { format: 'regressum-mod-catalogue', version: 1, mods: [] };
const BUILDS = ['1.0', '1.1', '2.0'].map((label) => ({ label: asBuild(label) }));

/** Everything that reads what somebody else wrote, by name, for what holds of all of them: tests and measurements. */
export const READERS: Readonly<Record<string, (text: string) => unknown>> = {
  'what a file is': kindOfText,
  'checksum list': (text) => parseChecksumList(text, 'file'),
  log: digestsInText,
  Metalink: (text) => parseMetalink(text, asBuild('1'), asDepot('d'), 'file'),
  'hold sheet': (text) => parseHoldSheet(text, 'file'),
  'depot index': (text) => parseJson(text, DepotIndexSchema, 'file'),
  catalogue: (text) => parseJson(text, CatalogueSchema, 'file'),
  'table of mods': (text) => {
    const { heads, rows } = readRawTable('file', text);
    return readModTable(rows, guessColumns(heads), { catalogue: NO_MODS, builds: BUILDS });
  },
};
