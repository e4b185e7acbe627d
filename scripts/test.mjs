import { existsSync } from 'node:fs';
import { runChecks } from './checks.mjs';
import { installPackages, run, runTool } from './run.mjs';

const CHROMIUM = '/usr/bin/chromium';

installPackages();
if (!existsSync(CHROMIUM)) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']);
}
await runChecks();
runTool('vitest', 'run');
runTool('react-router', 'build');
// Cuts at random points, the same ones each time; a thousand of them are for a run by hand.
run(process.execPath, ['bench/faults.mjs', '30', '1']);
runTool('playwright', 'test');
