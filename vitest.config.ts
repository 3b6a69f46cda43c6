import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['src/**/*.test.ts', 'src/**/*.test.tsx', 'tests/**/*.test.ts'],
    globalSetup: ['tests/postgres.setup.ts'],
    // A quiet machine needs a sixth of it for the longest; a busy one is no fault.
    testTimeout: 480_000,
    hookTimeout: 300_000,
    maxWorkers: 2,
    pool: 'forks',
  },
})
