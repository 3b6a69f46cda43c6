import { parseExr, writeExr } from '#core/codecs/exr'
import { analyseEnvironment } from '#core/environment/analyse-environment'
import { columnAzimuth, directionOf, rowElevation } from '#core/environment/sphere'
import { createFloatImage } from '#core/image/image'
import { dot } from '#core/math/vec3'
import { type Benchmark, bestSecondsOf, round } from './benchmark'

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
