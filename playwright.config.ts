import { defineConfig } from '@playwright/test'

/** The interface in Debian's Chromium, against a world that scripts/test.mjs has started at BASE_URL. */
export default defineConfig({
  testDir: 'tests/browser',
  outputDir: 'test-results/browser',
  reporter: [['list'], ['json', { outputFile: 'test-results/playwright.json' }]],
  workers: 1,
  timeout: 90_000,
  // A page that does not load within the time is loaded once more, by a browser of its own; what fails twice has failed.
  retries: 1,
  expect: { timeout: 15_000 },
  use: {
    baseURL: process.env.BASE_URL ?? 'http://127.0.0.1:4100',
    actionTimeout: 15_000,
    navigationTimeout: 30_000,
    viewport: { width: 1280, height: 800 },
    timezoneId: 'America/New_York',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: ['--no-sandbox', '--disable-gpu', '--disable-quic', '--no-first-run', '--disable-background-networking', '--disable-component-update', '--disable-sync'],
    },
  },
})
