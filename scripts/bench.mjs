// Benchmarks, each a ratio against a named baseline in the same run: npm run -s bench [-- NAME...]
import { chmodSync, mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ensurePackages, SetupError } from './setup.mjs'

let postgres = null
const folder = mkdtempSync(join(tmpdir(), 'muscovite-bench-'))
chmodSync(folder, 0o755)
try {
  await ensurePackages()
  const { buildNode, root } = await import('./build.mjs')
  await buildNode()
  const wanted = process.argv.slice(2)
  const onDatabase = ['search-50k-vs-select1', 'serve-vs-health', 'import-vs-decode']
  if (wanted.length === 0 || wanted.some(name => onDatabase.includes(name))) {
    const { startPostgres } = await import('./postgres.mjs')
    postgres = await startPostgres(folder)
    process.env.MUSCOVITE_BENCH_DATABASE_URL = postgres.url
    process.env.MUSCOVITE_ROOT = root
  }
  await import('../dist/node/bench.js')
} catch (error) {
  process.exitCode = 1
  process.stderr.write(`${error instanceof SetupError ? error.message : error.stack}\n`)
} finally {
  await postgres?.stop()
  rmSync(folder, { recursive: true, force: true })
}
