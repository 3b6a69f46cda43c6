import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox, createSphere } from '../../geometry/shapes'
import { createFloatImage } from '../../image/image'
import { createMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { hashCombine } from '../../math/random'
import { createCamera } from '../film/camera'
import { EnvironmentLight } from '../lights/environment-light'
import { createRayHit } from '../scene/ray-caster'
import { createScene } from '../scene/scene'
import { createTracer } from './kernel-tracer'
import { RandomWalk, scatter, singleScatteringAlbedo } from './random-walk'

const MM = 0.001

/** What comes out of a slab that light enters evenly from above, by way of its upper face and of its lower one. */
function throughSlab(color: number, thicknessM: number, radiusM: number, anisotropy = 0, walks = 6000) {
  // Its upper face at a height of 0.
  const slab = placeMesh(createBox(4, thicknessM, 4), [0, -thicknessM, 0])
  const { caster } = createScene([{ mesh: slab, material: createMaterial('slab'), images: [] }])
  const walk = new RandomWalk(caster)
  walk.setMedium([color, color, color], radiusM, [1, 1, 1], anisotropy)
  const hit = createRayHit()
  let [back, through] = [0, 0]
  for (let i = 0; i < walks; i++) {
    let dimension = 0
    const pair = () => hashCombine(i, dimension++)
    const u = hashCombine(91, i) / 2 ** 32
    const turn = (2 * Math.PI * hashCombine(17, i)) / 2 ** 32
    const across = Math.sqrt(u)
    const end = walk.follow(0, -1e-6, 0, across * Math.cos(turn), -Math.sqrt(1 - u), across * Math.sin(turn), i, pair, hit)
    if (end === 'lost') continue
    if (end === 'back' || walk.direction[1] > 0) back += walk.throughput[0]
    else through += walk.throughput[0]
  }
  return { back: back / walks, through: through / walks }
}

describe('light beneath a surface', () => {
  it('comes back from a thick piece in the colour that was asked for, however it scatters', () => {
    for (const color of [0.1, 0.4, 0.7, 0.9, 1])
      for (const anisotropy of [0, 0.5]) expect(Math.abs(throughSlab(color, 1, MM, anisotropy).back - color)).toBeLessThan(0.025)
  })

  it('goes through what is thin, the less the thicker it is', () => {
    const [thin, middling, thick] = [0.5, 4, 40].map(paths => throughSlab(0.9, paths * MM, MM).through)
    expect(thin).toBeGreaterThan(0.5)
    expect(middling).toBeLessThan(0.6 * thin)
    expect(thick).toBeLessThan(0.1 * middling)
  })

  it('of a black solid only what meets nothing comes through', () => {
    // Light that enters evenly is diffuse: what is left of it behind d free paths is 2 E₃(d), the third exponential integral.
    expect(Math.abs(throughSlab(0, 0.5 * MM, MM, 0, 20_000).through - 0.443)).toBeLessThan(0.01)
  })

  it('knows the albedo at both ends and in order', () => {
    for (const g of [0, 0.6]) {
      expect(singleScatteringAlbedo(0, g)).toBeCloseTo(0, 4)
      expect(singleScatteringAlbedo(1, g)).toBeCloseTo(1, 4)
      const steps = [0.1, 0.3, 0.5, 0.7, 0.9].map(c => singleScatteringAlbedo(c, g))
      expect(steps).toEqual([...steps].sort((a, b) => a - b))
    }
  })

  it('is turned by the mean cosine that was asked for', () => {
    for (const g of [0, 0.3, 0.8]) {
      let mean = 0
      for (let i = 0; i < 4096; i++) {
        const direction = Float64Array.of(0.36, -0.48, -0.8)
        scatter(direction, g, (i + 0.5) / 4096, (i * 0.618034) % 1)
        expect(Math.hypot(...direction)).toBeCloseTo(1, 9)
        mean += (direction[0] * 0.36 - direction[1] * 0.48 - direction[2] * 0.8) / 4096
      }
      expect(mean).toBeCloseTo(g, 2)
    }
  })
})

/** A ball before a sky of one brightness all around, and its mean radiance by colour. */
function ballInFurnace(parameters: Partial<OpenPbrParameters>, samples = 64): number[] {
  const sky = createFloatImage(8, 4, 3)
  sky.data.fill(1)
  const scene = createScene([
    { mesh: createSphere(0.1, [0, 0, 0], 48), material: createMaterial('ball', parameters), images: [] },
  ])
  const camera = createCamera([0, 0, 1], [0, 0, 0], 180, 1)
  const tracer = createTracer(scene, new EnvironmentLight(sky, 1, 0), camera, { background: null, width: 8, height: 8, seed: 2 })
  const sum = [0, 0, 0]
  for (let p = 0; p < 64; p++) {
    tracer.tracePixel(p % 8, p >> 3, 0, samples)
    for (let k = 0; k < 3; k++) sum[k] += tracer.sums.radiance[k] / (64 * samples)
  }
  return sum
}

describe('a solid that is seen into', () => {
  it('loses nothing where it is white, under a coat and fuzz as well', () => {
    const white = { subsurfaceWeight: 1, subsurfaceColor: [1, 1, 1] as [number, number, number] }
    for (const parameters of [
      { ...white, subsurfaceRadius: 0.002 },
      { ...white, subsurfaceRadius: 0.2, subsurfaceScatterAnisotropy: 0.7 },
      { ...white, subsurfaceRadius: 0.01, coatWeight: 1, coatRoughness: 0.3, coatDarkening: 0 },
      { ...white, subsurfaceRadius: 0.01, fuzzWeight: 1 },
      { ...white, subsurfaceWeight: 0.5, baseColor: [1, 1, 1] as [number, number, number], subsurfaceRadius: 0.01 },
    ])
      for (const seen of ballInFurnace(parameters)) expect(Math.abs(seen - 1)).toBeLessThan(0.03)
  })

  it('looks as a diffuse one of its colour where light hardly goes in, and darker where it goes in far and is absorbed', () => {
    const wax = { subsurfaceWeight: 1, subsurfaceColor: [0.8, 0.5, 0.3] as [number, number, number] }
    const diffuse = ballInFurnace(wax)
    const shallow = ballInFurnace({ ...wax, subsurfaceRadius: 1e-4, subsurfaceRadiusScale: [1, 1, 1] })
    for (let k = 0; k < 3; k++) expect(Math.abs(shallow[k] / diffuse[k] - 1)).toBeLessThan(0.06)
    const deep = ballInFurnace({ ...wax, subsurfaceRadius: 0.05, subsurfaceRadiusScale: [1, 1, 1] })
    // A thin piece lets light through before it has been coloured.
    expect(deep[2]).toBeGreaterThan(shallow[2])
  })
})
