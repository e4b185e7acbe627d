import { existsSync } from 'node:fs';
import { installPackages, run, runBeside, runTool } from './run.mjs';

const CHROMIUM = '/usr/bin/chromium';

installPackages();
if (!existsSync(CHROMIUM)) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']);
}
await runBeside(
  [
    ['prettier', '--check', '--log-level', 'warn', '.'],
    ['tsc', '-p', 'core'],
    ['eslint', '.', '--max-warnings', '0'],
  ],
  [
    ['react-router', 'typegen'],
    ['tsc', '-p', '.'],
  ],
);
runTool('vitest', 'run');
runTool('react-router', 'build');
runTool('playwright', 'test');
