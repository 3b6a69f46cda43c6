import { defineConfig } from 'vitest/config'

export default defineConfig({
  test: {
    // A quiet machine needs a sixth of it for the longest; a busy one is no fault.
    testTimeout: 480_000,
    hookTimeout: 300_000,
    // One more than there are processors, of which tests with processes of their own leave half.
    maxWorkers: 3,
    pool: 'forks',
    projects: [
      {
        extends: true,
        test: {
          name: 'node',
          // None of them leaves anything behind in a module, so that a process loads each once and not once for every file.
          isolate: false,
          include: ['src/**/*.test.ts', 'tests/**/*.test.ts'],
          globalSetup: ['tests/postgres.setup.ts'],
          setupFiles: ['tests/clean-up.setup.ts'],
        },
      },
      // After all others: a process ends where the next file is of another kind.
      {
        extends: true,
        test: {
          name: 'pages',
          include: ['src/web/**/*.test.tsx'],
          environment: 'jsdom',
          setupFiles: ['src/web/testing/pages.setup.ts'],
          sequence: { groupOrder: 1 },
        },
      },
    ],
  },
})
