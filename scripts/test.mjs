import { existsSync } from 'node:fs';
import { build } from './build.mjs';
import { runChecks } from './checks.mjs';
import { installPackages, run, runBeside, runTool } from './run.mjs';

/** The browsers that pages are tried in, by their Debian packages. */
const BROWSERS = { chromium: '/usr/bin/chromium', 'firefox-esr': '/usr/bin/firefox-esr' };

installPackages();
const missing = Object.keys(BROWSERS).filter((name) => !existsSync(BROWSERS[name]));
if (missing.length > 0) {
  run('apt-get', ['update', '-qq']);
  run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing]);
}
await runChecks();
build();
// Cuts at random points, the same ones each time, beside the unit tests; a thousand of them are for a run by hand.
await runBeside([['vitest', 'run']], [['bench/faults.mjs', '30', '1']]);
runTool('playwright', 'test');
