import { describe, expect, it } from 'vitest'
import { encodeSrgb, luminance } from '../color/srgb'
import { computeIrradiance } from '../environment/irradiance'
import { createSheet, createSphere } from '../geometry/shapes'
import { createFloatImage, type FloatImage } from '../image/image'
import { createMaterial } from '../material/open-pbr'
import { percentile } from '../math/statistics'
import { createCamera, frameSubject, projectPoint } from './film/camera'
import { judgeTiles } from './film/judge-tiles'
import { assembleTiles, finishRendering, Rendering, type RenderSettings, render } from './integrator/render'
import { EnvironmentLight } from './lights/environment-light'
import { createExposedLight, createHouseLightMap } from './lights/house-light'
import { renderPreview } from './pictures/preview'
import { HOUSE_RIGS } from './rigs/house-rigs'
import { rigSchema } from './rigs/rig'
import { createScene } from './scene/scene'

const settings = (given: Partial<RenderSettings> = {}): RenderSettings => ({
  width: 32,
  height: 32,
  seed: 1,
  noiseTarget: 0,
  maxSamples: 32,
  background: null,
  denoised: false,
  ...given,
})

const uniform = (value: number): FloatImage => {
  const map = createFloatImage(64, 32, 3)
  map.data.fill(value)
  return map
}

const meanOf = (image: FloatImage): number => image.data.reduce((a, b) => a + b, 0) / image.data.length
const grey = (albedo: number, more = {}) => createMaterial('grey', { baseColor: [albedo, albedo, albedo], ...more })

describe('render', () => {
  it('a white ball in a white furnace cannot be seen', () => {
    const scene = createScene([
      { mesh: createSphere(1, [0, 0, 0], 32), material: grey(1, { specularRoughness: 0.5 }), images: [] },
    ])
    const { image } = render(scene, new EnvironmentLight(uniform(1), 1), createCamera([0, 0, 4], [0, 0, 0], 35, 1), settings())!
    expect(meanOf(image)).toBeGreaterThan(0.98)
    expect(meanOf(image)).toBeLessThan(1.02)
    expect(percentile(image.data, 0.01)).toBeGreaterThan(0.9)
  })

  it('a matt floor under a sky reads albedo times irradiance over pi', () => {
    const map = createHouseLightMap(128)
    const floor = createSheet(
      1,
      1,
      (s, t) => [(s - 0.5) * 100, 0, (t - 0.5) * 100],
      () => [0, 0],
    )
    const scene = createScene([{ mesh: floor, material: grey(0.4, { specularWeight: 0 }), images: [] }])
    const { image } = render(
      scene,
      new EnvironmentLight(map, 1),
      createCamera([0, 5, 0.1], [0, 0, 0], 85, 1),
      settings({ maxSamples: 64 }),
    )!
    const expected = (0.4 * computeIrradiance(map, [0, 1, 0])[1]) / Math.PI
    expect(meanOf(image) / expected).toBeGreaterThan(0.98)
    expect(meanOf(image) / expected).toBeLessThan(1.02)
  })

  it('a small bright sun is found by sampling: irradiance within 2 %', () => {
    const map = createFloatImage(256, 128, 3)
    map.data.fill(0.1)
    for (let j = 30; j < 33; j++) for (let i = 100; i < 103; i++) map.data.fill(5000, (j * 256 + i) * 3, (j * 256 + i) * 3 + 3)
    const floor = createSheet(
      1,
      1,
      (s, t) => [(s - 0.5) * 100, 0, (t - 0.5) * 100],
      () => [0, 0],
    )
    const scene = createScene([{ mesh: floor, material: grey(0.5, { specularWeight: 0 }), images: [] }])
    const { image } = render(
      scene,
      new EnvironmentLight(map, 1),
      createCamera([0, 5, 0.1], [0, 0, 0], 85, 1),
      settings({ maxSamples: 64 }),
    )!
    // The lookup is bilinear, so a patch three pixels wide spreads over its neighbours; its energy stays.
    const expected = (0.5 * computeIrradiance(map, [0, 1, 0])[1]) / Math.PI
    expect(meanOf(image) / expected).toBeGreaterThan(0.97)
    expect(meanOf(image) / expected).toBeLessThan(1.03)
  })

  it('gives the same pixels for a seed, and others for another', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5), images: [] }])
    const light = createExposedLight(createHouseLightMap(64), 0)
    const camera = createCamera([0, 1, 4], [0, 0, 0], 35, 1)
    const draw = (seed: number) => render(scene, light, camera, settings({ seed, maxSamples: 8 }))!.image.data
    expect(draw(3)).toEqual(draw(3))
    expect(draw(3)).not.toEqual(draw(4))
  })

  it('gives the same pixels in any number of parts, and after a pause', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5, { coatWeight: 0.5 }), images: [] }])
    const light = createExposedLight(createHouseLightMap(64), 0)
    const camera = createCamera([0, 1, 4], [0, 0, 0], 35, 1)
    const wanted = settings({ width: 96, height: 80, maxSamples: 20, noiseTarget: 0.02, denoised: true })
    const whole = render(scene, light, camera, wanted)!
    for (const count of [2, 3]) {
      const parts = Array.from({ length: count }, (_, index) => new Rendering(scene, light, camera, wanted, { index, count }))
      const tiles = parts.flatMap(p => p.tiles).sort((a, b) => a.y0 - b.y0 || a.x0 - b.x0)
      while (tiles.some(t => !t.done)) {
        for (const part of [...parts].reverse()) while (part.step());
        judgeTiles(tiles, wanted)
      }
      const merged = finishRendering(tiles, wanted, 0, { taken: 0, whole: 1 })
      expect(merged.image.data).toEqual(whole.image.data)
      expect(merged.samples).toBe(whole.samples)
      expect(merged.achievedError).toBe(whole.achievedError)
    }
    const first = new Rendering(scene, light, camera, wanted)
    for (let k = 0; k < 11; k++) first.step()
    const kept = structuredClone(first.tiles)
    const second = new Rendering(scene, light, camera, wanted, undefined, kept)
    while (second.step());
    expect(finishRendering(second.tiles, wanted, 0, { taken: 0, whole: 1 }).image.data).toEqual(whole.image.data)
  })

  it('shows a whole picture from the first pass on, ever nearer to the last', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5), images: [] }])
    const rendering = new Rendering(
      scene,
      createExposedLight(createHouseLightMap(64), 0),
      createCamera([0, 1, 4], [0, 0, 0], 35, 1),
      settings({ width: 64, height: 64, maxSamples: 32 }),
    )
    const shots: FloatImage[] = []
    const shares: number[] = []
    for (let k = 0; rendering.step(); k++)
      if (k % 4 === 3) {
        shots.push(assembleTiles(rendering.tiles, rendering.settings))
        shares.push(rendering.doneShare)
      }
    const last = shots[shots.length - 1]
    const away = (a: FloatImage) => a.data.reduce((sum, v, i) => sum + (v - last.data[i]) ** 2, 0)
    expect(meanOf(shots[0]) / meanOf(last)).toBeGreaterThan(0.9)
    expect(away(shots[0])).toBeGreaterThan(away(shots[2]) * 2)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect(shares[shares.length - 1]).toBe(1)
  })

  it('says its error as it falls, and expects as much work as that takes', () => {
    const rendering = new Rendering(
      createScene([{ mesh: createSphere(1), material: grey(0.5), images: [] }]),
      createExposedLight(createHouseLightMap(64), 0),
      createCamera([0, 1, 4], [0, 0, 0], 35, 1),
      settings({ width: 64, height: 64, maxSamples: 4000, noiseTarget: 0.006 }),
    )
    expect([rendering.error, rendering.doneShare]).toEqual([null, 0])
    const errors: number[] = []
    let half: number | null = null
    let steps = 0
    for (; rendering.step(); steps++) {
      if (rendering.error !== null) errors.push(rendering.error)
      if (half === null && rendering.error !== null && rendering.doneShare >= 0.5) half = steps
    }
    expect(errors[0]).toBeGreaterThan(errors[errors.length - 1] * 1.5)
    expect(errors[errors.length - 1]).toBeLessThanOrEqual(0.006)
    expect(rendering.doneShare).toBe(1)
    // Far fewer samples than the cap: a share of the cap would have said so at the very end only.
    expect(half! / steps).toBeGreaterThan(0.2)
    expect(half! / steps).toBeLessThan(0.8)
  })

  it('knows its own error, and rather claims too much: against a far longer rendering', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5, { specularRoughness: 0.6 }), images: [] }])
    const light = createExposedLight(createHouseLightMap(128), 0)
    const camera = createCamera([0, 1, 4], [0, 0, 0], 35, 1)
    const draw = (maxSamples: number) => render(scene, light, camera, settings({ width: 64, height: 64, maxSamples }))!
    const truth = draw(512).image
    const display = ({ data }: FloatImage, p: number) =>
      encodeSrgb(Math.min(1, luminance(data[p * 3], data[p * 3 + 1], data[p * 3 + 2])))
    for (const samples of [16, 64]) {
      const { image, achievedError } = draw(samples)
      const tiles = [0, 1, 2, 3].map(t => {
        let sum = 0
        for (let p = 0; p < 1024; p++) {
          const at = (Math.floor(t / 2) * 32 + Math.floor(p / 32)) * 64 + (t % 2) * 32 + (p % 32)
          sum += (display(image, at) - display(truth, at)) ** 2
        }
        return Math.sqrt(sum / 1024)
      })
      const real = percentile(tiles, 0.95)
      expect(achievedError / real).toBeGreaterThan(0.8)
      expect(achievedError / real).toBeLessThan(2)
    }
  })

  it('a tile stops at its target, and says so when it came to the cap instead', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5), images: [] }])
    const light = createExposedLight(createHouseLightMap(64), 0)
    const camera = createCamera([0, 1, 4], [0, 0, 0], 35, 1)
    const easy = render(scene, light, camera, settings({ width: 64, height: 64, noiseTarget: 0.05, maxSamples: 512 }))!
    expect(easy.convergedShare).toBe(1)
    expect(easy.achievedError).toBeLessThanOrEqual(0.05)
    expect(easy.samples).toBeLessThan(64 * 64 * 128)
    const hard = render(scene, light, camera, settings({ width: 64, height: 64, noiseTarget: 1e-4, maxSamples: 16 }))!
    expect(hard.convergedShare).toBe(0)
    expect(hard.achievedError).toBeGreaterThan(1e-4)
  })

  it('takes less than a hundredth of the light off fireflies, even off a small sun in a mirror', () => {
    const map = createFloatImage(256, 128, 3)
    map.data.fill(0.2)
    for (let j = 40; j < 42; j++) for (let i = 100; i < 102; i++) map.data.fill(8000, (j * 256 + i) * 3, (j * 256 + i) * 3 + 3)
    const floor = createSheet(
      1,
      1,
      (s, t) => [(s - 0.5) * 8, -1, (t - 0.5) * 8],
      () => [0, 0],
    )
    const mirror = createMaterial('mirror', { baseMetalness: 1, baseColor: [0.9, 0.9, 0.9], specularRoughness: 0.1 })
    const scene = createScene([
      { mesh: floor, material: grey(0.5), images: [] },
      { mesh: createSphere(1), material: mirror, images: [] },
    ])
    const camera = createCamera([0, 1, 6], [0, -0.3, 0], 35, 1)
    const result = render(scene, createExposedLight(map, 0), camera, settings({ width: 64, height: 64, maxSamples: 64 }))!
    expect(result.fireflyShare).toBeGreaterThan(0)
    expect(result.fireflyShare).toBeLessThan(0.01)
  })

  it('stops when asked to', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5), images: [] }])
    const light = createExposedLight(createHouseLightMap(64), 0)
    let tiles = 0
    const result = render(
      scene,
      light,
      createCamera([0, 1, 4], [0, 0, 0], 35, 1),
      settings({ width: 96, height: 96 }),
      () => ++tiles < 2,
    )
    expect(result).toBeNull()
    expect(tiles).toBe(2)
  })

  it('a draft filtered for noise keeps its mean and comes closer to the truth', () => {
    const scene = createScene([{ mesh: createSphere(1), material: grey(0.5, { specularRoughness: 0.6 }), images: [] }])
    const light = createExposedLight(createHouseLightMap(128), 0)
    const camera = createCamera([0, 1, 4], [0, 0, 0], 35, 1)
    const size = { width: 64, height: 64 }
    const truth = render(scene, light, camera, settings({ ...size, maxSamples: 256 }))!.image
    const noisy = render(scene, light, camera, settings({ ...size, maxSamples: 8 }))!.image
    const filtered = render(scene, light, camera, settings({ ...size, maxSamples: 8, denoised: true }))!.image
    const error = (a: FloatImage) => Math.sqrt(a.data.reduce((sum, v, i) => sum + (v - truth.data[i]) ** 2, 0) / a.data.length)
    expect(error(filtered)).toBeLessThan(error(noisy) * 0.8)
    expect(meanOf(filtered) / meanOf(noisy)).toBeGreaterThan(0.97)
    expect(meanOf(filtered) / meanOf(noisy)).toBeLessThan(1.03)
  })
})

describe('environment light', () => {
  it('its density integrates to one over the sphere', () => {
    const light = new EnvironmentLight(createHouseLightMap(128), 1, 0.7)
    let sum = 0
    const n = 200
    for (let i = 0; i < n; i++)
      for (let j = 0; j < n * 2; j++) {
        const y = -1 + (2 * (i + 0.5)) / n
        const phi = (Math.PI * (j + 0.5)) / n
        const r = Math.sqrt(1 - y * y)
        sum += light.pdfOf(r * Math.sin(phi), y, -r * Math.cos(phi))
      }
    expect((sum * 4 * Math.PI) / (n * n * 2)).toBeCloseTo(1, 1)
  })

  it('a black map still answers', () => {
    const light = new EnvironmentLight(uniform(0), 1)
    light.sample(0.3, 0.6)
    expect(Number.isFinite(light.pdf) && light.pdf > 0).toBe(true)
  })
})

describe('framing', () => {
  it('any proportions fill the wanted share of the frame, centred', () => {
    for (const size of [
      [1, 1, 1],
      [4, 0.1, 0.3],
      [0.05, 3, 0.05],
      [0.002, 0.001, 0.002],
      [40, 12, 30],
    ]) {
      const points = new Float32Array(
        [0, 1, 2, 3, 4, 5, 6, 7].flatMap(i => [i & 1 ? size[0] : -size[0], i & 2 ? size[1] : 0, i & 4 ? size[2] : -size[2]]),
      )
      const camera = frameSubject(points, [0.5, 0.3, 0.81], 85, 4 / 3, 0.74)
      let x = 0
      let y = 0
      let left = 0
      let right = 0
      for (let i = 0; i < points.length; i += 3) {
        const p = projectPoint(camera, [points[i], points[i + 1], points[i + 2]])!
        x = Math.max(x, Math.abs(p.x) / (4 / 3))
        y = Math.max(y, Math.abs(p.y))
        left = Math.min(left, p.x)
        right = Math.max(right, p.x)
      }
      expect(Math.max(x, y)).toBeGreaterThan(0.7)
      expect(Math.max(x, y)).toBeLessThan(0.78)
      expect(Math.abs(left + right)).toBeLessThan(0.02)
    }
  })
})

describe('rigs', () => {
  it('every house rig is a valid rig', () => {
    for (const rig of Object.values(HOUSE_RIGS)) expect(rigSchema.parse(rig)).toEqual(rig)
  })

  it('extreme materials and empty models give a picture and no NaN', () => {
    const tiny = { width: 24, noiseTarget: 1, maxSamples: 4, denoised: true }
    for (const material of [
      createMaterial('smooth', { specularRoughness: 0, specularIor: 1, baseMetalness: 1 }),
      createMaterial('hollow', {
        transmissionWeight: 1,
        specularIor: 0.5,
        transmissionDepth: 0.01,
        transmissionColor: [0, 0, 0],
      }),
      createMaterial('broken', { specularRoughness: Number.NaN, baseColor: [Number.NaN, 2, -1] }),
      createMaterial('gone', { geometryOpacity: 0 }),
    ]) {
      const result = renderPreview(
        { kind: 'material', material, images: [{ width: 1, height: 1, channels: 3, data: new Uint8Array([9, 9, 9]) }] },
        { rig: HOUSE_RIGS['material-stage'], quality: tiny, seed: 1 },
      )!
      expect(result.image.data.every(Number.isFinite)).toBe(true)
    }
    const empty = renderPreview(
      { kind: 'model', objects: [] },
      { rig: HOUSE_RIGS['model-three-quarter'], quality: tiny, seed: 1 },
    )!
    expect(empty.image.data.every(Number.isFinite)).toBe(true)
    const black = renderPreview(
      { kind: 'environment', map: uniform(0), sun: null },
      { rig: HOUSE_RIGS['environment-strip'], quality: tiny, seed: 1 },
    )!
    expect(black.image.data.every(Number.isFinite)).toBe(true)
  })
})
