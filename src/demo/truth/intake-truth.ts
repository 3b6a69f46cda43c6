import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { parseArgs } from 'node:util'
import { makeTruth } from './make-truth'
import { scoreTruth } from './score-truth'
import { takeIn } from './take-in'

/** Makes a faulty delivery from a seed, takes it in, and prints how much of what was planted was found, and what was found beside it. */
const { values } = parseArgs({
  options: { seed: { type: 'string', default: '1' }, verbose: { type: 'boolean', default: false } },
})
const seed = Number(values.seed)
if (!Number.isInteger(seed) || seed < 0) {
  process.stderr.write('--seed is a whole number, 0 or more.\n')
  process.exit(2)
}
const root = await mkdtemp(join(tmpdir(), 'muscovite-truth-'))
try {
  const { planted } = await makeTruth(root, seed)
  const found = await takeIn(root)
  const { recall, precision, checks, misses } = scoreTruth(planted, found)
  if (values.verbose) for (const line of misses) process.stderr.write(`${line}\n`)
  process.stdout.write(`${JSON.stringify({ seed, items: planted.length, recall, precision, checks })}\n`)
} finally {
  await rm(root, { recursive: true, force: true })
}
