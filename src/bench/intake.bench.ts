import { fork } from 'node:child_process'
import { link, mkdir, mkdtemp, rm, stat } from 'node:fs/promises'
import { cpus, tmpdir } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { DEMO_PIECES, makePiece } from '../demo/make-file'
import { type Benchmark, round } from './benchmark'

const ITEMS = 1000
/** Of each hundred items: the rest are texture sets. */
const MODELS = 16
const SKIES = 2

/** Many items of a few made ones: the bytes are shared, but each is read, decoded and measured like any other. */
export async function makeDelivery(root: string): Promise<number> {
  const made = new Map<string, string[][]>()
  for (const kind of ['texture', 'model', 'sky'] as const) {
    const pieces = DEMO_PIECES.filter(p => p.kind === kind).slice(0, 12)
    made.set(kind, await Promise.all(pieces.map(piece => makePiece(piece, join(root, 'made')))))
  }
  let bytes = 0
  for (let i = 0; i < ITEMS; i++) {
    const place = i % 100
    const kind = place < MODELS ? 'model' : place < MODELS + SKIES ? 'sky' : 'texture'
    const choices = made.get(kind)!
    for (const path of choices[i % choices.length]) {
      const name = path.split('/').pop()!
      const target = join(root, 'delivery', kind, `Item_${i}`, `N${i}_${name}`)
      await mkdir(dirname(target), { recursive: true })
      await link(join(root, 'made', path), target)
      bytes += (await stat(target)).size
    }
  }
  return bytes
}

interface Run {
  seconds: number
  mb: number
  count: number
}

/** One way through the delivery, in a process of its own. */
export const runIn = (how: 'intake' | 'decode', root: string, threads: number) =>
  new Promise<Run>((resolve, reject) => {
    const child = fork(fileURLToPath(new URL('./intake.child.js', import.meta.url)), [how, root, String(threads)])
    child.once('message', message => resolve(message as Run))
    child.once('exit', status => reject(new Error(`${how} ended with ${status}`)))
  })

/** A large mixed delivery through recognition, checks and pictures of findings, against decoding its pictures on as many threads. */
export const intakeBenchmark: Benchmark = {
  name: 'intake-vs-decode',
  run: async () => {
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-intake-'))
    try {
      const bytes = await makeDelivery(folder)
      const threads = cpus().length
      const root = join(folder, 'delivery')
      const theirs = await runIn('decode', root, threads)
      const ours = await runIn('intake', root, threads)
      return [
        {
          name: 'intake-vs-decode',
          ratio: round(theirs.seconds / ours.seconds),
          ours: round(ours.seconds),
          baseline: round(theirs.seconds),
          unit: 's',
          note: `${ours.count} items, ${round(bytes / 1e9)} GB, ${round((60 * ours.count) / ours.seconds)} items a minute on ${threads} threads, peak ${Math.round(ours.mb)} MB, against decoding the ${theirs.count} pictures alone, peak ${Math.round(theirs.mb)} MB`,
        },
      ]
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  },
}
