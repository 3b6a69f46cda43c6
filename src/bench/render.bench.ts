import { cpus } from 'node:os'
import { Worker } from 'node:worker_threads'
import type { ByteImage } from '#core/image/image'
import { buildMaterialFromMaps } from '#core/material/build-material'
import { createMaterial } from '#core/material/open-pbr'
import { HOUSE_RIGS } from '#core/render/house-rigs'
import { renderPreview } from '#core/render/preview'
import { TEXTURE_RECIPES } from '#demo/materials'
import { makeMaps } from '#demo/texture-set'
import { type Benchmark, bestSecondsOf, round, secondsOf } from './benchmark'

const SAMPLES = 8

/** Renders a 256 px material preview without filtering; samples and seconds. */
export function renderOak(samples = SAMPLES) {
  const maps = makeMaps({ ...TEXTURE_RECIPES[0], sizePx: 512 })
  const of = (role: string) => maps.find(m => m.role === role) as ByteImage
  const material = buildMaterialFromMaps(
    'oak',
    [
      { role: 'baseColor', image: 0 },
      { role: 'normal', image: 1 },
      { role: 'roughness', image: 2 },
    ],
    [1.2, 1.2],
  )
  const images = [of('basecolor'), of('normal'), of('roughness')]
  return () =>
    renderPreview(
      { kind: 'material', material, images },
      {
        rig: HOUSE_RIGS['material-stage'],
        quality: { width: 256, noiseTarget: 0, maxSamples: samples, denoised: false },
        seed: 1,
      },
    )!
}

/** A megasample of the plainest thing there is, a grey surface without maps, stands for the cost of the path tracing itself. */
export const previewBenchmark: Benchmark = {
  name: 'preview-megasample',
  run: async () => {
    const draw = renderOak()
    const result = draw()
    const ours = await bestSecondsOf(2, draw)
    const plain = createMaterial('plain', { baseColor: [0.5, 0.5, 0.5] })
    const drawPlain = () =>
      renderPreview(
        { kind: 'material', material: plain, images: [] },
        {
          rig: HOUSE_RIGS['material-stage'],
          quality: { width: 256, noiseTarget: 0, maxSamples: SAMPLES, denoised: false },
          seed: 1,
        },
      )
    const baseline = await bestSecondsOf(2, drawPlain)
    const perMegasample = (seconds: number) => round(seconds / (result.samples / 1e6))
    return [
      {
        name: 'preview-megasample',
        ratio: round(baseline / ours),
        ours: perMegasample(ours),
        baseline: perMegasample(baseline),
        unit: 's per megasample',
        note: `256 px oak with three maps against the same stage plain grey; ${round(result.rays / result.samples)} rays a sample, ${round(result.rays / ours / 1e6)} Mrays/s`,
      },
    ]
  },
}

export const threadsBenchmark: Benchmark = {
  name: 'threads-2-vs-1',
  run: async () => {
    const runThreads = (count: number) =>
      Promise.all(
        Array.from(
          { length: count },
          () =>
            new Promise<void>((resolve, reject) => {
              const worker = new Worker(new URL('./oak.worker.js', import.meta.url))
              worker.once('message', () => {
                worker.terminate()
                resolve()
              })
              worker.once('error', reject)
            }),
        ),
      )
    const one = await secondsOf(() => runThreads(1))
    const two = await secondsOf(() => runThreads(2))
    return [
      {
        name: 'threads-2-vs-1',
        ratio: round((2 * one) / two),
        ours: round(two),
        baseline: round(one),
        unit: 's',
        note: `two previews on two threads against one on one; ${cpus().length} cores`,
      },
    ]
  },
}
