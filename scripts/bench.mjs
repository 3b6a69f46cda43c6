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
  const onDatabase = [
    'search-50k-vs-select1',
    'serve-vs-health',
    'import-vs-decode',
    'wall-50k-http',
    'suggest-50k',
    'similar-50k',
    'wall-100-artists',
    'load-50k',
    'wall-scroll-50k',
    'mock-up-open',
    'mock-up-edit',
  ]
  const inBrowser = ['wall-scroll-50k', 'mock-up-open', 'mock-up-edit']
  if (wanted.length === 0 || wanted.some(name => onDatabase.includes(name))) {
    const { startPostgres } = await import('./postgres.mjs')
    postgres = await startPostgres(folder)
    process.env.MUSCOVITE_BENCH_DATABASE_URL = postgres.url
    process.env.MUSCOVITE_ROOT = root
  }
  if (wanted.length === 0 || wanted.some(name => inBrowser.includes(name))) {
    const { ensureDebianPackages, findChromium } = await import('./setup.mjs')
    ensureDebianPackages(['chromium'], () => findChromium() !== null, 'Chromium')
    process.env.MUSCOVITE_CHROMIUM = findChromium()
    const { buildWeb } = await import('./build.mjs')
    await buildWeb()
  }
  await import('../dist/node/bench.js')
} catch (error) {
  process.exitCode = 1
  process.stderr.write(`${error instanceof SetupError ? error.message : error.stack}\n`)
} finally {
  await postgres?.stop()
  rmSync(folder, { recursive: true, force: true })
}
