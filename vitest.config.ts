import { fileURLToPath } from 'node:url';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  resolve: { alias: { '~': fileURLToPath(new URL('./app', import.meta.url)) } },
  test: {
    // Only what hangs ends by the clock: how long the rest takes is the machine's.
    testTimeout: 300_000,
    hookTimeout: 300_000,
    maxWorkers: '100%',
    projects: [
      // The heart keeps nothing between two tests, so that its files can share what is loaded.
      { extends: true, test: { name: 'core', include: ['core/**/*.test.ts'], isolate: false } },
      { extends: true, test: { name: 'around', include: ['{app,server,demo,scripts}/**/*.test.ts'] } },
    ],
  },
});
