import { existsSync } from 'node:fs';
import { runChecks } from './checks.mjs';
import { installPackages, run, runBeside, runTool } from './run.mjs';

const CHROMIUM = '/usr/bin/chromium';

installPackages();
if (!existsSync(CHROMIUM)) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']);
}
await runChecks();
runTool('react-router', 'build');
// Cuts at random points, the same ones each time, beside the unit tests; a thousand of them are for a run by hand.
await runBeside([['vitest', 'run']], [['bench/faults.mjs', '30', '1']]);
runTool('playwright', 'test');
