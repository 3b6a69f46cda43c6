// Everything that must hold: types, lint, tests of core, files, server and pages, then the browser journey. Installs what is missing.
import { spawnSync } from 'node:child_process'
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ensureDebianPackages, ensurePackages, findChromium, findPostgres, SetupError } from './setup.mjs'

const root = join(import.meta.dirname, '..')
const say = text => console.log(text)
const bin = name => join(root, 'node_modules/.bin', name)
const reports = mkdtempSync(join(tmpdir(), 'muscovite-reports-'))
let passed = 0
let failed = 0

function run(title, command, args) {
  say(`\n${title}`)
  const { status } = spawnSync(command, args, {
    cwd: root,
    stdio: 'inherit', // Building the pages leaves the environment set for production, in which React has no tools for tests.
    env: { ...process.env, NODE_ENV: 'test', FORCE_COLOR: '0' },
  })
  return status === 0
}

function runTests(title, name, args) {
  const report = join(reports, `${name}.json`)
  const ok = run(title, bin('vitest'), ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${report}`, ...args])
  try {
    const { numPassedTests, numFailedTests, testResults } = JSON.parse(readFileSync(report, 'utf8'))
    passed += numPassedTests
    // A file that does not even load has no tests to count, and has failed all the same.
    const unloaded = testResults.filter(file => file.status === 'failed' && file.assertionResults.length === 0).length
    failed += ok ? 0 : Math.max(1, numFailedTests + unloaded)
  } catch {
    failed++
  }
}

try {
  await ensurePackages(say)
  ensureDebianPackages(['postgresql'], () => findPostgres() !== null, 'PostgreSQL', say)
  ensureDebianPackages(['chromium'], () => findChromium() !== null, 'Chromium', say)
  // A reader of models that is none of ours, for ours to be held against.
  ensureDebianPackages(['assimp-utils'], () => existsSync('/usr/bin/assimp'), 'assimp', say)
  const { buildKernel, buildNode, buildWeb } = await import('./build.mjs')
  await buildKernel()
  const { runChecks } = await import('./check.mjs')
  const checked = await runChecks()
  passed += checked.held
  failed += checked.broken
  await buildNode()
  await buildWeb()
  const only = process.argv.slice(2)
  runTests('Tests', 'unit', [...only, '--exclude', 'tests/journey/**'])
  if (only.length === 0) runTests('Journey in the browser', 'journey', ['tests/journey'])
} catch (error) {
  failed++
  console.error(error instanceof SetupError ? error.message : error)
} finally {
  rmSync(reports, { recursive: true, force: true })
}
console.log(`\n${passed} passed, ${failed} failed`)
process.exit(failed === 0 ? 0 : 1)
