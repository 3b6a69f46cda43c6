// Fills a running installation with made-up items: npm run -s demo-library -- --items N [--seed N]
import { resolve } from 'node:path'
import { ensurePackages, SetupError } from './setup.mjs'

try {
  await ensurePackages()
  const { buildNode } = await import('./build.mjs')
  await buildNode()
  const { findRunning } = await import('./postgres.mjs')
  process.env.MUSCOVITE_DATABASE_URL ??= findRunning(resolve(process.env.MUSCOVITE_DATA ?? './.data'))
  await import('../dist/node/demo-library.js')
} catch (error) {
  process.stderr.write(`${error instanceof SetupError ? error.message : error.stack}\n`)
  process.exitCode = 1
}
