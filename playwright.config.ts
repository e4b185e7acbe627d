import { defineConfig } from '@playwright/test';

const PORT = 4174;

export default defineConfig({
  testDir: 'tests/e2e',
  timeout: 240_000,
  // One after the other: two at once would share two cores with the server, and no measurement would hold.
  workers: 1,
  reporter: 'line',
  use: {
    actionTimeout: 30_000,
    baseURL: `http://127.0.0.1:${PORT}`,
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
    command: 'npx react-router-serve build/server/index.js',
    env: { HOST: '127.0.0.1', PORT: String(PORT), NODE_ENV: 'production' },
    port: PORT,
  },
});
