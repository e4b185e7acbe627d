import { mkdirSync, realpathSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const root = join(tmpdir(), 'regressum-e2e-served');
mkdirSync(root, { recursive: true });

/** The folder that the tests' server serves; each test makes its own below it. */
export const SERVED_ROOT = realpathSync(root);
export const SERVED_TOKEN = 'the-token-of-the-tests';
