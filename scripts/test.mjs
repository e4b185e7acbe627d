import { existsSync } from 'node:fs';
import { installPackages, run, runBeside } from './run.mjs';

const CHROMIUM = '/usr/bin/chromium';

installPackages();
if (!existsSync(CHROMIUM)) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']);
}
await runBeside(
  [
    ['npx', ['prettier', '--check', '--log-level', 'warn', '.']],
    ['npx', ['tsc', '-p', 'core']],
    ['npx', ['eslint', '.', '--max-warnings', '0']],
  ],
  [
    ['npx', ['react-router', 'typegen']],
    ['npx', ['tsc', '-p', '.']],
  ],
);
run('npx', ['vitest', 'run']);
run('npx', ['react-router', 'build']);
run('npx', ['playwright', 'test']);
