export { jsonRows } from './json-rows';
export { addReleases, mergeMod, saidOfMod, withdrawnReleases, withReleases } from './merge';
export { idOfName, nameKey } from './mod-ids';
export { guessColumns, MOD_FIELDS, modTable, NEEDED_FIELDS, readModTable } from './mod-table';
export type { AlikeName, ColumnMap, DecidedNames, ModField, ModTable, TableFault, TableRow } from './mod-table';
export {
  isSharedList,
  listCells,
  type ListedMod,
  listMarkdown,
  markdownRow,
  markdownRows,
  type ReadListed,
  readSharedList,
  type Role,
  ROLE_WORDS,
} from './shared-list';
export { CsvFault, csvRows, fromCsvCell, toCsv } from './csv';
export { type BranchBuild, buildsInRange, labelsWithBlanks, parseRange, rangesOfBuilds } from './ranges';
