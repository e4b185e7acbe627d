export { compareTree, countStates, departures } from './compare';
export type { ExpectedFile, FileState, FoundFile, SurveyRow } from './compare';
export { identifyDepots, likeliestBuild } from './identify';
export type { DepotIdentity, Trees } from './identify';
export { nameStrays } from './strays';
export type { StrayName } from './strays';
export { quickIdentities, tellingFiles } from './telling-files';
export type { QuickIdentity, TellingFile, TellingSet } from './telling-files';
export { foundFromList } from './listed';
