import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    include: ['src/**/*.test.ts', 'src/**/*.test.tsx', 'tests/**/*.test.ts'],
    globalSetup: ['tests/postgres.setup.ts'],
    testTimeout: 180_000,
    hookTimeout: 120_000,
    maxWorkers: 2,
    pool: 'forks',
  },
})
