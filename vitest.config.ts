import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    pool: 'forks',
    maxWorkers: 2,
    projects: [
      { test: { name: 'core', include: ['tests/core/**/*.test.ts'], testTimeout: 60_000 } },
      { test: { name: 'programs', include: ['tests/programs/**/*.test.ts'], testTimeout: 60_000 } },
      {
        test: {
          name: 'server',
          include: ['tests/server/**/*.test.ts'],
          globalSetup: ['tests/server/cluster.ts'],
          setupFiles: ['tests/server/database.ts'],
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
    ],
  },
})
