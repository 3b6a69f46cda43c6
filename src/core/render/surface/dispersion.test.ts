import { describe, expect, it } from 'vitest'
import { createSphere } from '../../geometry/shapes'
import { createFloatImage } from '../../image/image'
import { createMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { createCamera } from '../film/camera'
import { createTracer } from '../integrator/kernel-tracer'
import { EnvironmentLight } from '../lights/environment-light'
import { createScene } from '../scene/scene'
import { iorAt, wavelengthOf, weightOfPrimary } from './dispersion'

describe('glass that bends colours apart', () => {
  it('has the Abbe number that was asked for, and its index at the yellow line', () => {
    const at = (um: number) => iorAt(um, 1.6, 0.5, 20)
    expect(at(0.5876)).toBeCloseTo(1.6, 6)
    expect((at(0.5876) - 1) / (at(0.4861) - at(0.6563))).toBeCloseTo(20 / 0.5, 6)
    expect(at(0.45)).toBeGreaterThan(at(0.65))
    expect(iorAt(0.45, 1.6, 0, 20)).toBe(1.6)
  })

  it('counts each primary once over all wavelengths', () => {
    for (const primary of [0, 1, 2]) {
      let mean = 0
      for (let i = 0; i < 3000; i++) mean += weightOfPrimary(wavelengthOf((i + 0.5) / 3000), primary) / 3000
      expect(mean).toBeCloseTo(1, 3)
    }
  })
})

/** A ball of glass before a sky that is white above and black below: pixels of what is seen through it. */
function seenThrough(parameters: Partial<OpenPbrParameters>, isEven = false) {
  const sky = createFloatImage(64, 32, 3)
  sky.data.fill(isEven ? 1 : 0)
  sky.data.fill(1, 0, 64 * 16 * 3)
  const material = createMaterial('glass', { transmissionWeight: 1, specularRoughness: 0, specularIor: 1.7, ...parameters })
  const scene = createScene([{ mesh: createSphere(0.1, [0, 0, 0], 96), material, images: [] }])
  const camera = createCamera([0, 0, 1], [0, 0, 0], 100, 1)
  const tracer = createTracer(scene, new EnvironmentLight(sky, 1, 0), camera, {
    background: null,
    width: 24,
    height: 24,
    seed: 4,
  })
  return Array.from({ length: 24 * 24 }, (_, p) => {
    tracer.tracePixel(p % 24, Math.floor(p / 24), 0, 128)
    return [...tracer.sums.radiance].map(v => v / 128)
  })
}
const meanOf = (pixels: number[][], k: number) => pixels.reduce((sum, p) => sum + p[k], 0) / pixels.length
/** Over what noise does, since neighbours of one row are alike in their true colour. */
const colorOf = (pixels: number[][]) => {
  const rows = Array.from({ length: 24 }, (_, y) => [0, 1, 2].map(k => meanOf(pixels.slice(y * 24 + 8, y * 24 + 16), k)))
  return Math.max(...rows.map(row => Math.max(...row) - Math.min(...row)))
}

describe('seen through', () => {
  it('an edge has colours, where without dispersion it has none', () => {
    expect(colorOf(seenThrough({}))).toBeLessThan(0.01)
    expect(colorOf(seenThrough({ transmissionDispersionScale: 1, transmissionDispersionAbbeNumber: 12 }))).toBeGreaterThan(0.05)
  })

  it('a sky that is white all around stays white, and loses nothing', () => {
    const pixels = seenThrough({ transmissionDispersionScale: 1 }, true)
    for (const k of [0, 1, 2]) expect(Math.abs(meanOf(pixels, k) - 1)).toBeLessThan(0.02)
  })
})
