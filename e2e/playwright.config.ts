import { defineConfig } from '@playwright/test';
// @ts-expect-error a plain script, shared with screenshots.mjs
import { CHROMIUM } from './chromium.mjs';

const port = Number(process.env.BRAMBLEMIST_E2E_PORT ?? 4890);

/** The real interface in Debian's Chromium, against a server of its own with the demo data. */
export default defineConfig({
  testDir: '.',
  outputDir: '../test-results',
  timeout: 240_000,
  expect: { timeout: 30_000 },
  // each page keeps two cores busy, drawing without a graphics card: two at once take longer than one by one
  // (measured 1.4 times), and their presses wait beyond any patience
  workers: 1,
  // a slow machine may stumble once; what fails twice is broken, and what passes at second try is listed as
  // flaky
  retries: 1,
  reporter: 'list',
  use: {
    baseURL: `http://127.0.0.1:${port}`,
    viewport: { width: 1280, height: 800 },
    acceptDownloads: true,
    actionTimeout: 15_000,
    trace: { mode: 'on-first-retry', screenshots: false },
    launchOptions: CHROMIUM,
  },
  webServer: {
    command: `node ${new URL('./serve.mjs', import.meta.url).pathname} ${port}`,
    url: `http://127.0.0.1:${port}/api/health`,
    reuseExistingServer: false,
    timeout: 120_000,
    gracefulShutdown: { signal: 'SIGTERM', timeout: 15_000 },
  },
});
