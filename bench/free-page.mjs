import { spawnSync } from 'node:child_process';

/*
 * node bench/free-page.mjs [SHARE]
 * How much of the time that surveying, fetching and laying down take the page cannot answer, since tasks of over 50 ms hold up its
 * thread: by the browser test that goes the whole way, alone. Prints its report; ends with 1 where it is more than SHARE (0.1).
 */
const [most = '0.1'] = process.argv.slice(2);
const { status } = spawnSync('npx', ['playwright', 'test', 'way.spec'], {
  env: { ...process.env, REGRESSUM_MOST_BLOCKED: most },
  stdio: 'inherit',
});
process.exit(status ?? 1);
