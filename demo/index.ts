export { createDemoWorld, DEMO_SEED } from './world';
export type { DemoFile, DemoScale, DemoWorld } from './world';
export { BRANCHES, BUILDS, DEPOTS, GAME } from './game';
export { demoCatalogue, modFileBytes, MODS } from './mods';
export { CRASHES, PASSED_AROUND } from './passed-around';
export { PASSED_LOGS } from './passed-logs';
export { INSTALLED_RELEASES, playerFiles, PLAYER_OWNERSHIP, PLAYER_WEIGHTS, type PlayerFile } from './player';
