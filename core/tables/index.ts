export { jsonRows } from './json-rows';
export { mergeMod, saidOfMod } from './merge';
export { guessColumns, idOfName, MOD_FIELDS, modTable, NEEDED_FIELDS, readModTable } from './mod-table';
export type { ColumnMap, ModField, ModTable, TableFault, TableRow } from './mod-table';
export { type BranchBuild, buildsInRange, parseRange, rangesOfBuilds } from './ranges';
