import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { measureAudit, measureCorrection } from './measure-audit'

/** Makes a library and a scene from a seed, audits the scene, and prints how much was told rightly, class by class. */
const { values } = parseArgs({
  options: {
    seed: { type: 'string', default: '1' },
    materials: { type: 'string', default: '200' },
    models: { type: 'string', default: '100' },
    verbose: { type: 'boolean', default: false },
  },
})
const [seed, materials, models] = [values.seed, values.materials, values.models].map(Number)
if (![seed, materials, models].every(n => Number.isInteger(n) && n >= 0)) {
  process.stderr.write('--seed, --materials and --models are whole numbers, 0 or more.\n')
  process.exit(2)
}
const root = await mkdtemp(join(tmpdir(), 'muscovite-audit-'))
try {
  const measured = await measureAudit(root, seed, { materials, models })
  const { recall, precision, right, classes, misses, seconds } = measured
  const { done, refused, stillWrong, geometryUnchanged } = await measureCorrection(measured)
  if (values.verbose) for (const line of [...misses, ...stillWrong]) process.stderr.write(`${line}\n`)
  const corrected = { done, refused, stillWrong: stillWrong.length }
  process.stdout.write(`${JSON.stringify({ seed, recall, precision, right, classes, corrected, geometryUnchanged, seconds })}\n`)
} finally {
  await rm(root, { recursive: true, force: true })
}
