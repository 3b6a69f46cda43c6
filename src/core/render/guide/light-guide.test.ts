import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox } from '../../geometry/shapes'
import { createFloatImage } from '../../image/image'
import { createMaterial } from '../../material/open-pbr'
import { createCamera } from '../film/camera'
import { displayLuminance } from '../film/tile'
import { createTracer, KernelTracer, PlainTracer } from '../integrator/kernel-tracer'
import { PathTracer } from '../integrator/path-tracer'
import { render } from '../integrator/render'
import { EnvironmentLight } from '../lights/environment-light'
import { createScene } from '../scene/scene'
import { facingOf, layGrid, spotOf } from './guide-grid'
import { evenly } from './guide-tables'
import { type LightGuide, learnLightGuide } from './light-guide'

const [WIDTH, HEIGHT] = [32, 24]

/** A sky with a sun that stands high in the south. */
function createDay(): EnvironmentLight {
  const map = createFloatImage(128, 64, 3)
  map.data.fill(0.4)
  for (let x = 0; x < 3; x++) map.data.fill(400, (18 * 128 + x) * 3, (18 * 128 + x + 1) * 3)
  return new EnvironmentLight(map, 1)
}

const white = createMaterial('white', { baseColor: [0.8, 0.8, 0.8] })
const box = (w: number, h: number, d: number, at: [number, number, number]) => ({
  mesh: placeMesh(createBox(w, h, d), at),
  material: white,
  images: [],
})

/** 4 × 3 × 4 m with an opening of 1.2 m in its south wall, a table in it, on a ground. */
const ROOM = [
  box(60, 0.1, 60, [0, -0.11, 0]),
  box(4.4, 0.1, 4.4, [0, -0.1, 0]),
  box(4.4, 0.1, 4.4, [0, 3, 0]),
  box(0.2, 3, 4.4, [-2.1, 0, 0]),
  box(0.2, 3, 4.4, [2.1, 0, 0]),
  box(4.4, 3, 0.2, [0, 0, -2.1]),
  box(1.6, 3, 0.2, [-1.4, 0, 2.1]),
  box(1.6, 3, 0.2, [1.4, 0, 2.1]),
  box(1.2, 0.9, 0.2, [0, 0, 2.1]),
  box(1.2, 0.9, 0.2, [0, 2.1, 2.1]),
  box(0.8, 0.7, 0.8, [0.6, 0, -0.6]),
]
const room = createScene(ROOM)
const day = createDay()
const camera = createCamera([-1.6, 1.5, 1.6], [0.6, 0.9, -1.4], 20, WIDTH / HEIGHT)
const guide = learnLightGuide(room, day, camera) as LightGuide

describe('a guide to where light comes in', () => {
  it('is learnt in a room, and not under the open sky', () => {
    expect(guide).not.toBeNull()
    const open = createScene([box(60, 0.1, 60, [0, -0.1, 0]), box(0.8, 0.7, 0.8, [0.6, 0, -0.6])])
    expect(learnLightGuide(open, day, camera)).toBeNull()
    const nothing = createScene([box(0.1, 0.1, 0.1, [0, -90, 0])])
    expect(learnLightGuide(nothing, day, camera)).toBeNull()
  })

  it('draws by densities that add up to one, and says which', () => {
    const tables = guide.tableOf.filter(t => t >= 0)
    expect(tables.length).toBeGreaterThan(30)
    for (const table of tables.filter((_, i) => i % 11 === 0)) {
      let [ofSky, ofBounce] = [0, 0]
      const count = 40_000
      for (let k = 0; k < count; k++) {
        const [u1, u2] = evenly(k)
        const y = 1 - 2 * u1
        const [x, z] = [Math.cos(2 * Math.PI * u2), Math.sin(2 * Math.PI * u2)].map(v => v * Math.sqrt(1 - y * y))
        ofSky += (guide.sky.pdfOf(table, x, y, z) * 4 * Math.PI) / count
        ofBounce += (guide.bounce.pdfOf(table, x, y, z) * 4 * Math.PI) / count
      }
      expect(ofBounce).toBeCloseTo(1, 1)
      // The sun is a pixel or two of the map: few of the directions meet it.
      expect(Math.abs(ofSky - 1)).toBeLessThan(0.25)
      for (let k = 0; k < 200; k++) {
        const [u1, u2] = evenly(k)
        guide.sky.sample(table, u1, u2)
        expect(guide.sky.pdfOf(table, day.x, day.y, day.z) / day.pdf).toBeCloseTo(1, 4)
      }
    }
  })

  it('draws what comes in many times as often as the light alone', () => {
    const through = (draw: (u1: number, u2: number) => void, at: readonly [number, number, number]) => {
      let count = 0
      for (let k = 0; k < 2000; k++) {
        draw(...evenly(k))
        if (day.y > 0 && !room.caster.isOccluded(...at, day.x, day.y, day.z, 1e30)) count++
      }
      return count / 2000
    }
    const at = [-0.8, 0.001, -1.2] as const
    const table = guide.tableAt(...at, 0, 1, 0)
    expect(table).toBeGreaterThanOrEqual(0)
    const alone = through((u1, u2) => day.sample(u1, u2), at)
    const guided = through((u1, u2) => guide.sky.sample(table, u1, u2), at)
    expect(alone).toBeGreaterThan(0)
    expect(guided).toBeGreaterThan(alone * 3)
  })

  it('leads the plain tracer and the one in WebAssembly along the same paths', () => {
    const view = { background: null, width: WIDTH, height: HEIGHT, seed: 5, guide }
    const plain = new PlainTracer(new PathTracer(room, day, camera, null, WIDTH, HEIGHT, 5, false, guide))
    const kernel = createTracer(room, day, camera, view)
    expect(kernel).toBeInstanceOf(KernelTracer)
    let [off, count, ours, theirs] = [0, 0, 0, 0]
    for (let p = 0; p < WIDTH * HEIGHT; p++)
      for (let s = 0; s < 3; s++) {
        plain.tracePixel(p % WIDTH, Math.floor(p / WIDTH), s, s + 1)
        kernel.tracePixel(p % WIDTH, Math.floor(p / WIDTH), s, s + 1)
        const [a, b] = [plain.sums.radiance, kernel.sums.radiance]
        count++
        ours += b[1]
        theirs += a[1]
        if ([0, 1, 2].some(k => Math.abs(a[k] - b[k]) > 1e-3 * (0.01 + Math.abs(a[k])))) off++
      }
    expect(off / count).toBeLessThan(0.01)
    expect(ours / theirs).toBeCloseTo(1, 2)
  })

  it('says nothing of another map that is only seen behind everything, however large its table', () => {
    const map = createFloatImage(512, 256, 3)
    map.data.fill(0.25)
    const behind = new EnvironmentLight(map, 1)
    const outwards = createCamera([0, 1.5, -1.5], [0, 1.5, 3], 24, WIDTH / HEIGHT)
    const tracer = createTracer(room, day, outwards, { background: behind, width: WIDTH, height: HEIGHT, seed: 2, guide })
    let seen = 0
    for (let round = 0; round < 4; round++)
      for (let p = 0; p < WIDTH * HEIGHT; p++) {
        tracer.tracePixel(p % WIDTH, Math.floor(p / WIDTH), round, round + 1)
        const { radiance, feature } = tracer.sums
        if (feature[6] > 0) continue
        seen++
        for (let k = 0; k < 3; k++) expect(radiance[k]).toBeCloseTo(0.25, 6)
      }
    expect(seen).toBeGreaterThan(20)
  })

  it('changes no picture, only its noise', () => {
    const trace = (guided: boolean, maxSamples: number, seed: number) =>
      render(room, day, camera, {
        width: WIDTH,
        height: HEIGHT,
        seed,
        noiseTarget: 0,
        maxSamples,
        background: null,
        denoised: false,
        guided,
      })!.image.data
    const [plain, guided] = [trace(false, 600, 1), trace(true, 600, 2)]
    const mean = (data: Float32Array) => data.reduce((sum, v) => sum + v, 0) / data.length
    expect(mean(guided) / mean(plain)).toBeCloseTo(1, 1)
    expect(Math.abs(mean(guided) / mean(plain) - 1)).toBeLessThan(0.03)
    const error = (data: Float32Array) => {
      let squared = 0
      for (let i = 0; i < data.length; i += 3)
        squared +=
          (displayLuminance(data[i], data[i + 1], data[i + 2]) - displayLuminance(guided[i], guided[i + 1], guided[i + 2])) ** 2
      return Math.sqrt(squared / (data.length / 3))
    }
    expect(error(trace(true, 16, 3))).toBeLessThan(error(trace(false, 16, 3)) * 0.85)
  })
})

describe('a dim lamp in a room that has a guide', () => {
  it('is looked for seldom by way of walls, and gives as much in all', () => {
    const lit = createScene(ROOM, new Map(), [
      { position: [0, 2.4, 0], radius: 0.03, nearest: 0.1, intensity: [0.1, 0.1, 0.1], photometricProfile: null },
    ])
    const night = new EnvironmentLight(createFloatImage(16, 8, 3), 1)
    const trace = (guided: boolean) =>
      render(lit, night, camera, {
        ...{ width: WIDTH, height: HEIGHT, seed: 4, noiseTarget: 0, maxSamples: 200, background: null, denoised: false },
        guided,
      })!
    const [plain, guided] = [trace(false), trace(true)]
    const mean = ({ data }: { data: Float32Array }) => data.reduce((sum, v) => sum + v, 0) / data.length
    expect(mean(plain.image)).toBeGreaterThan(0.001)
    expect(Math.abs(mean(guided.image) / mean(plain.image) - 1)).toBeLessThan(0.03)
    expect(guided.rays).toBeLessThan(plain.rays * 0.9)
  })
})

describe('the cells of a guide', () => {
  it('tell the ways that surfaces face apart', () => {
    expect([
      facingOf(1, 0, 0),
      facingOf(-1, 0.2, 0),
      facingOf(0, 1, 0.3),
      facingOf(0, -1, 0),
      facingOf(0, 0, 1),
      facingOf(0, 0.1, -1),
    ]).toEqual([0, 1, 2, 3, 4, 5])
  })

  it('lie about what is near, whatever is seen far away, and end', () => {
    const near = Array.from({ length: 95 }, (_, i) => ({
      position: [i % 5, (i % 7) / 3, (i % 9) / 2] as const,
      normal: [0, 1, 0] as const,
    }))
    const far = Array.from({ length: 5 }, () => ({ position: [900, 0, 900] as const, normal: [0, 1, 0] as const }))
    const grid = layGrid([...near, ...far])!
    expect(grid.cellM).toBeLessThan(1)
    expect(spotOf(grid, 2, 1, 2, 0, 1, 0)).toBeGreaterThanOrEqual(0)
    expect(spotOf(grid, 900, 0, 900, 0, 1, 0)).toBe(-1)
    expect(spotOf(grid, Number.NaN, 0, 0, 0, 1, 0)).toBe(-1)
    expect(layGrid([near[0], near[0]])).toBeNull()
  })
})
