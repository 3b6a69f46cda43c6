import { describe, expect, it } from 'vitest'
import { createBox } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { createCamera } from '../film/camera'
import { fitRows } from '../film/fit-rows'
import { lightOfRig } from '../lights/house-light'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { createScene } from '../scene/scene'
import { KernelTracer, type TracerCopy } from './kernel-tracer'
import { finishRendering, Rendering, type RenderSettings } from './render'
import { ALONE, type Helper, type Helpers, traceTogether } from './trace-together'

const SETTINGS: RenderSettings = {
  width: 96,
  height: 64,
  seed: 7,
  noiseTarget: 4 / 255,
  maxSamples: 32,
  background: null,
  denoised: true,
  guided: true,
}

function startRendering(): Rendering {
  const scene = createScene([
    { mesh: createBox(4, 0.1, 4), material: createMaterial('floor', { specularRoughness: 0.6 }), images: [] },
    { mesh: createBox(1, 1, 1), material: createMaterial('glass', { transmissionWeight: 1 }), images: [] },
  ])
  return new Rendering(
    scene,
    lightOfRig(HOUSE_RIGS['model-three-quarter']),
    createCamera([2, 2, 4], [0, 0.4, 0], 35, 1.5),
    SETTINGS,
  )
}

/** Helpers on this very thread, each in a memory of its own. */
function makeHelpers(allowed: () => number, trace: (helper: KernelTracer, count: number) => void = () => {}) {
  const log = { opened: 0, closed: 0, passes: 0, fitted: 0 }
  const open = (copy: TracerCopy): Helper => {
    log.opened++
    const tracer = KernelTracer.reopen(copy)
    let count = 0
    return {
      trace: async ({ tile, halves }) => {
        await Promise.resolve()
        trace(tracer, ++count)
        log.passes++
        const [rays, clamped] = [tracer.rays, tracer.clampedLuminance]
        const traced = halves.map(h => tracer.traceArea(tile, h.from, h.until, h.which).slice())
        return { halves: traced, rays: tracer.rays - rays, clampedLuminance: tracer.clampedLuminance - clamped }
      },
      fit: async task => {
        await Promise.resolve()
        trace(tracer, ++count)
        log.fitted++
        return fitRows(task)
      },
      close: () => {
        log.closed++
      },
    }
  }
  const helpers: Helpers = { allowed, open, pause: () => new Promise(resolve => setImmediate(resolve)) }
  return { helpers, log }
}

async function pictureOf(helpers: Helpers) {
  const rendering = startRendering()
  expect(await traceTogether(rendering, helpers, () => true)).toBe(true)
  return finishRendering(rendering.tiles, SETTINGS, rendering.rays, rendering.clamped)
}

describe('traceTogether', () => {
  it('makes the picture that one thread makes, whoever traces what', async () => {
    const one = await pictureOf(ALONE)
    const { helpers, log } = makeHelpers(() => 3)
    const many = await pictureOf(helpers)
    expect(many.image.data).toEqual(one.image.data)
    expect(many.samples).toBe(one.samples)
    expect(many.rays).toBe(one.rays)
    expect(many.fireflyShare).toBeCloseTo(one.fireflyShare, 12)
    expect(log.opened).toBe(3)
    expect(log.closed).toBe(3)
    expect(log.passes).toBeGreaterThan(4)
    // Two halves at two sizes, each time that it is judged.
    expect(log.fitted).toBeGreaterThanOrEqual(2)
  })

  it('takes on helpers and lets them go while it traces', async () => {
    const one = await pictureOf(ALONE)
    let asked = 0
    const { helpers, log } = makeHelpers(() => [0, 2, 2, 1, 0, 0, 2][asked++ % 7])
    expect((await pictureOf(helpers)).image.data).toEqual(one.image.data)
    expect(log.opened).toBeGreaterThan(2)
    expect(log.closed).toBe(log.opened)
  })

  it('goes on without a helper that failed, and takes back what it had', async () => {
    const one = await pictureOf(ALONE)
    const { helpers, log } = makeHelpers(
      () => 2,
      (_, count) => {
        if (count === 2) throw new Error('out of memory')
      },
    )
    expect((await pictureOf(helpers)).image.data).toEqual(one.image.data)
    expect(log.opened).toBe(2)
    expect(log.closed).toBe(2)
  })

  it('ends when it is told to, and sends its helpers home', async () => {
    const { helpers, log } = makeHelpers(() => 2)
    expect(await traceTogether(startRendering(), helpers, () => false)).toBe(false)
    expect(log.closed).toBe(2)
  })

  it('tells how much memory a helper takes', async () => {
    let told = 0
    await pictureOf({
      ...ALONE,
      allowed: bytes => {
        told = bytes
        return 0
      },
    })
    expect(told).toBeGreaterThan(65536)
  })
})
