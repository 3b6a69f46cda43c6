import { defineConfig } from 'vitest/config'
import { BaseSequencer, type TestSpecification } from 'vitest/node'

/** Files that take a minute or nearly: begun last, one of them would be waited for alone. */
const LONG = [
  'src/demo/demo.test.ts',
  'tests/server/kill.test.ts',
  'src/core/render/film/judge-tiles.test.ts',
  'src/demo/truth/truth.test.ts',
  'tests/server/compute-pool.test.ts',
  'tests/server/mock-ups.test.ts',
  'src/files/models/interchange.test.ts',
  'src/files/fixes/house-fixes.test.ts',
  'src/cli/cli.test.ts',
  'tests/server/worker.test.ts',
  'src/demo/audit/audit-truth.test.ts',
]

class LongFirst extends BaseSequencer {
  override async sort(files: TestSpecification[]): Promise<TestSpecification[]> {
    const rankOf = ({ moduleId }: TestSpecification) => {
      const rank = LONG.findIndex(path => moduleId.endsWith(path))
      return rank < 0 ? LONG.length : rank
    }
    return (await super.sort(files)).sort((a, b) => rankOf(a) - rankOf(b))
  }
}

export default defineConfig({
  test: {
    // A quiet machine needs a sixth of it for the longest; a busy one is no fault.
    testTimeout: 480_000,
    hookTimeout: 300_000,
    // One more than there are processors, of which tests with processes of their own leave half.
    maxWorkers: 3,
    pool: 'forks',
    sequence: { sequencer: LongFirst },
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
