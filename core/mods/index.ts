export { CatalogueSchema, ModSchema, WEIGHTS, WeightSchema } from './schema';
export type { Catalogue, Mod, Release, ReleaseFile, Requirement, Weight } from './schema';
export { inRange, knownReleases, modById, needsOf, releaseAt, releaseOrder, rangeWords, sameNeed } from './releases';
export { recogniseMods, releaseFileKey } from './recognise';
export type { InstalledMod } from './recognise';
export { byPrograms, programMisfits, type ProgramMisfit, type Programs } from './programs';
