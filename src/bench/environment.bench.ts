import { fork } from 'node:child_process'
import { mkdtemp, rm, stat, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { parseExr } from '#core/codecs/exr'
import { writeHdr } from '#core/codecs/hdr'
import { writeExr } from '#core/codecs/write-exr'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { columnAzimuth, directionOf, rowElevation } from '#core/environment/sphere'
import { createFloatImage } from '#core/image/image'
import { hash32 } from '#core/math/random'
import { dot } from '#core/math/vec3'
import { encodeExr } from '#files/writing/encode-exr'
import { type Benchmark, type BenchmarkLine, bestSecondsOf, round } from './benchmark'

function makeSky(width: number) {
  const height = width / 2
  const map = createFloatImage(width, height, 3)
  const sun = directionOf(0.6, 0.7)
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const elevation = rowElevation(j, height)
      const d = dot(directionOf(columnAzimuth(i, width), elevation), sun)
      const sky = elevation > 0 ? 0.4 + 0.5 * Math.sin(elevation) : 0.1
      const value = d > 0.99995 ? 20_000 : sky
      map.data.set([value * 0.6, value * 0.8, value], (j * width + i) * 3)
    }
  return map
}

/** With grain, as a camera leaves it, or the file would pack to nothing. */
function makeGrainySky(width: number) {
  const map = makeSky(width)
  for (let i = 0; i < map.data.length; i++) map.data[i] *= 1 + (0.02 * hash32(i)) / 2 ** 32
  return map
}

interface Opened {
  seconds: number
  mb: number
}

const openIn = (how: 'analyse' | 'decode', type: 'exr' | 'hdr', path: string) =>
  new Promise<Opened>((resolve, reject) => {
    const child = fork(fileURLToPath(new URL('./environment.child.js', import.meta.url)), [how, type, path])
    child.once('message', message => resolve(message as Opened))
    child.once('exit', status => reject(new Error(`${how} of the ${type} ended with ${status}`)))
  })

/** The better of two processes. */
async function bestOf(how: 'analyse' | 'decode', type: 'exr' | 'hdr', path: string): Promise<Opened> {
  const [a, b] = [await openIn(how, type, path), await openIn(how, type, path)]
  return a.seconds < b.seconds ? a : b
}

/** The whole analysis of an 8K sky with all its smaller copies against a loader that only decodes it, each in a process of its own. */
export const largeEnvironmentBenchmark: Benchmark = {
  name: 'exr8k-vs-decode',
  run: async () => {
    const folder = await mkdtemp(join(tmpdir(), 'muscovite-8k-'))
    try {
      const lines: BenchmarkLine[] = []
      const map = makeGrainySky(8192)
      for (const type of ['exr', 'hdr'] as const) {
        const path = join(folder, `sky_8k.${type}`)
        await writeFile(path, type === 'exr' ? encodeExr(map) : writeHdr(map))
        const ours = await bestOf('analyse', type, path)
        const theirs = await bestOf('decode', type, path)
        lines.push({
          name: type === 'exr' ? 'exr8k-vs-decode' : 'hdr8k-vs-decode',
          ratio: round(theirs.seconds / ours.seconds),
          ours: round(ours.seconds),
          baseline: round(theirs.seconds),
          unit: 's',
          note: `analysis with tiers of an 8192 x 4096 .${type} of ${Math.round((await stat(path)).size / 1e6)} MB, peak ${Math.round(ours.mb)} MB, against three's loader decoding it, peak ${Math.round(theirs.mb)} MB`,
        })
      }
      return lines
    } finally {
      await rm(folder, { recursive: true, force: true })
    }
  },
}

/** How long a look at a 4K sky takes, against only opening its file. */
export const environmentBenchmark: Benchmark = {
  name: 'hdri4k-vs-decode',
  run: async () => {
    const map = makeSky(4096)
    const file = writeExr(map)
    const decode = await bestSecondsOf(2, () => parseExr(file))
    const analyse = await bestSecondsOf(3, () => analyseEnvironment(map))
    return [
      {
        name: 'hdri4k-vs-decode',
        ratio: round(decode / analyse),
        ours: round(analyse),
        baseline: round(decode),
        unit: 's',
        note: 'full analysis of a 4096 x 2048 sky against decoding it from ZIP-compressed OpenEXR',
      },
    ]
  },
}
