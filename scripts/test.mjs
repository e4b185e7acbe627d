import { existsSync } from 'node:fs';
import { installPackages, run } from './run.mjs';

const CHROMIUM = '/usr/bin/chromium';

installPackages();
if (!existsSync(CHROMIUM)) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', 'chromium']);
}
run('npx', ['prettier', '--check', '--log-level', 'warn', '.']);
run('npx', ['eslint', '.', '--max-warnings', '0']);
run('npx', ['react-router', 'typegen']);
run('npx', ['tsc', '-p', 'core']);
run('npx', ['tsc', '-p', '.']);
run('npx', ['vitest', 'run']);
run('npx', ['react-router', 'build']);
run('npx', ['playwright', 'test']);
