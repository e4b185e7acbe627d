export { compareTree, countStates, departures } from './compare';
export type { ExpectedFile, FileState, FoundFile, SurveyRow } from './compare';
export { identifyDepots, likeliestBuild } from './identify';
export type { DepotIdentity, Trees } from './identify';
export { nameStrays } from './strays';
export type { StrayName } from './strays';
