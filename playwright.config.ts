import { defineConfig } from '@playwright/test';
import { SERVER_LIMITS } from './scripts/server.mjs';
import { HANGS_MS } from './tests/e2e/expect';
import { DEMO_BYTES, DEMO_FILES, SERVED_ROOT, SERVED_TOKEN, TEST_PORT } from './tests/e2e/served-root';

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 900_000,
  // Only what hangs ends by the clock: most of what is waited for is hashing, writing and fetching, as long as the machine needs.
  expect: { timeout: HANGS_MS },
  workers: 2,
  fullyParallel: true,
  projects: [
    { name: 'prepared', testMatch: '**/*.setup.ts' },
    { name: 'ways', dependencies: ['prepared'] },
    // Only when it is asked for: what it makes is kept.
    ...(process.env.KEEP_SAMPLE ? [{ name: 'samples', testMatch: '**/*.keep.ts' }] : []),
  ],
  reporter: 'list',
  use: {
    actionTimeout: 180_000,
    baseURL: `http://127.0.0.1:${TEST_PORT}`,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
  webServer: {
    command: ['node', ...SERVER_LIMITS, 'build/server/index.js'].join(' '),
    env: {
      HOST: '127.0.0.1',
      PORT: String(TEST_PORT),
      NODE_ENV: 'production',
      REGRESSUM_ROOTS: SERVED_ROOT,
      REGRESSUM_TOKEN: SERVED_TOKEN,
      REGRESSUM_DEMO: 'yes',
      REGRESSUM_DEMO_FILES: String(DEMO_FILES),
      REGRESSUM_DEMO_BYTES: String(DEMO_BYTES),
      REGRESSUM_WRITE: 'yes',
    },
    port: TEST_PORT,
  },
});
