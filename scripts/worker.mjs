// One more rendering machine: needs MUSCOVITE_DATABASE_URL and a store that it shares with the others.
import { ensurePackages, SetupError } from './setup.mjs'

try {
  await ensurePackages()
  const { buildNode } = await import('./build.mjs')
  await buildNode()
  await import('../dist/node/worker.js')
} catch (error) {
  process.stderr.write(error instanceof SetupError ? `${error.message}\n` : `The worker could not start: ${error.message}\n`)
  process.exit(1)
}
