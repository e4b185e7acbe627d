export { createDemoWorld, DEMO_SEED } from './world';
export type { DemoFile, DemoScale, DemoWorld } from './world';
export { BRANCHES, BUILDS, DEPOTS, GAME } from './game';
export { demoCatalogue, modFileBytes, MODS } from './mods';
export { PASSED_AROUND } from './passed-around';
export { INSTALLED_RELEASES, playerFiles, PLAYER_OWNERSHIP, PLAYER_WEIGHTS, type PlayerFile } from './player';
