import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { makeTruth, measureAudit, measureCorrection } from './measure-audit'

/** Makes a library and a scene from a seed, audits the scene, and prints how much was told rightly, class by class. */
const { values } = parseArgs({
  options: {
    seed: { type: 'string', default: '1' },
    materials: { type: 'string', default: '200' },
    models: { type: 'string', default: '100' },
    lights: { type: 'string', default: '40' },
    form: { type: 'string', default: 'glb' },
    verbose: { type: 'boolean', default: false },
  },
})
const [seed, materials, models, lights] = [values.seed, values.materials, values.models, values.lights].map(Number)
if (![seed, materials, models, lights].every(n => Number.isInteger(n) && n >= 0)) {
  process.stderr.write('--seed, --materials, --models and --lights are whole numbers, 0 or more.\n')
  process.exit(2)
}
const FORMS = ['glb', 'gltf', 'usdz', 'obj'] as const
const form = FORMS.find(f => f === values.form)
if (!form) {
  process.stderr.write(`--form is one of ${FORMS.join(', ')}.\n`)
  process.exit(2)
}
const root = await mkdtemp(join(tmpdir(), 'muscovite-audit-'))
try {
  const measured = await measureAudit(await makeTruth(root, seed, { materials, models, lights }), form)
  const { recall, precision, right, classes, misses, seconds } = measured
  if (values.verbose) for (const line of misses) process.stderr.write(`${line}\n`)
  const told = { seed, form, recall, precision, right, classes, seconds }
  if (form === 'glb') {
    const { done, refused, stillWrong, geometryUnchanged } = await measureCorrection(measured)
    if (values.verbose) for (const line of stillWrong) process.stderr.write(`${line}\n`)
    const corrected = { done, refused, stillWrong: stillWrong.length }
    process.stdout.write(`${JSON.stringify({ ...told, corrected, geometryUnchanged })}\n`)
  } else process.stdout.write(`${JSON.stringify(told)}\n`)
} finally {
  await rm(root, { recursive: true, force: true })
}
