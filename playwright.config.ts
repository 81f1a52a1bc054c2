import { defineConfig } from '@playwright/test'

/**
 * The interface in Debian's Chromium, each file against a world of its own (tests/browser/fixtures), a copy of
 * WORLD_TEMPLATE.
 */
export default defineConfig({
  testDir: 'tests/browser',
  outputDir: 'test-results/browser',
  reporter: [['list'], ['json', { outputFile: 'test-results/playwright.json' }]],
  workers: 1,
  // Long enough for a machine that is busy with other things; what fails, fails by what it expects.
  timeout: 240_000,
  // A test that needs a second try has failed.
  retries: 0,
  expect: { timeout: 30_000 },
  use: {
    actionTimeout: 30_000,
    navigationTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    timezoneId: 'America/New_York',
    screenshot: 'only-on-failure',
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        // A microphone that hums; a test that may use it says so.
        '--use-fake-device-for-media-stream',
      ],
    },
  },
})
