import { defineConfig } from '@playwright/test'

/** The interface in Debian's Chromium, against a world that scripts/test.mjs has started at BASE_URL. */
export default defineConfig({
  testDir: 'tests/browser',
  outputDir: 'test-results/browser',
  reporter: [['list'], ['json', { outputFile: 'test-results/playwright.json' }]],
  workers: 1,
  timeout: 90_000,
  // A test that needs a second try has failed.
  retries: 0,
  expect: { timeout: 15_000 },
  use: {
    baseURL: process.env.BASE_URL ?? 'http://127.0.0.1:4100',
    // What a test asks for by itself says where it comes from, as a browser does: writes without that are blocked.
    extraHTTPHeaders: { origin: process.env.BASE_URL ?? 'http://127.0.0.1:4100' },
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
