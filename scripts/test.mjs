import { existsSync } from 'node:fs';
import { runChecks } from './checks.mjs';
import { installPackages, run, runTool } from './run.mjs';

/** The browsers that pages are tried in, by their Debian packages. */
const BROWSERS = { chromium: '/usr/bin/chromium', 'firefox-esr': '/usr/bin/firefox-esr' };

installPackages();
const missing = Object.keys(BROWSERS).filter((name) => !existsSync(BROWSERS[name]));
if (missing.length > 0) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing]);
}
// Cuts at random points are the same ones each time; a thousand of them are for a run by hand.
await runChecks([[['bench/faults.mjs', '30', '1']], [['scripts/build.mjs'], ['vitest', 'run']]]);
runTool('playwright', 'test');
