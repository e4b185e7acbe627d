import { mkdirSync, realpathSync } from 'node:fs';
import { join, resolve } from 'node:path';

/** What the tests write lies in the checkout that they are of: another one's run must not meet it. */
export const TESTS_TMP = resolve(import.meta.dirname, '../../.tmp/e2e');

const root = join(TESTS_TMP, 'served');
mkdirSync(root, { recursive: true });

/** The port of the tests' server, and the next is for one of a test's own: several checkouts can be tested beside one another. */
export const TEST_PORT = Number(process.env['TEST_PORT'] ?? 4174);

/** The folder that the tests' server serves; a test has its own below it by `folderAt`. */
export const SERVED_ROOT = realpathSync(root);
/** How many of the demo's usual files the tests have: each costs a browser disk more than its bytes do. */
export const DEMO_FILES = 0.15;
/** And of their bytes: some files still have more than one piece. */
export const DEMO_BYTES = 0.4;
export const SERVED_TOKEN = 'the-token-of-the-tests';

/** Debian's, as scripts/test.mjs installs it. */
export const FIREFOX = '/usr/bin/firefox-esr';
