import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox, createSheet, createSphere } from '../../geometry/shapes'
import { type ByteImage, createFloatImage, type FloatImage } from '../../image/image'
import { createMaterial, type OpenPbrMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { createRandom } from '../../math/random'
import { percentile } from '../../math/statistics'
import { createTracer } from '../integrator/kernel-tracer'
import { Rendering, type RenderSettings, render } from '../integrator/render'
import { EnvironmentLight } from '../lights/environment-light'
import { createExposedLight, createHouseLightMap } from '../lights/house-light'
import { createScene, type Scene, type SceneObject } from '../scene/scene'
import { createCamera } from './camera'
import { believeShares } from './judge-tiles'
import { displayLuminance } from './tile'

const [WIDTH, HEIGHT] = [96, 64]
const camera = createCamera([0.6, 0.9, 2.2], [0, 0.3, 0], 50, WIDTH / HEIGHT)
const house = createExposedLight(createHouseLightMap(128), 0)
const REFERENCE_SAMPLES = 140

function sceneOf(material: OpenPbrMaterial, images: readonly ByteImage[] = []): Scene {
  const of = (mesh: SceneObject['mesh']): SceneObject => ({ mesh, material, images })
  const sheet = createSheet(
    8,
    8,
    (s, t) => [s * 1.4 - 0.7, t * 0.8, -0.6 + 0.1 * Math.sin(6 * s)],
    (s, t) => [s, t],
  )
  return createScene([
    of(createSphere(0.3, [-0.35, 0.3, 0], 32)),
    of(placeMesh(createBox(0.4, 0.5, 0.4, 0.03), [0.4, 0, 0.1])),
    of(sheet),
    {
      mesh: placeMesh(createBox(6, 0.1, 6), [0, -0.1, 0]),
      material: createMaterial('floor', { baseColor: [0.4, 0.4, 0.4] }),
      images: [],
    },
  ])
}

function createSun(): EnvironmentLight {
  const map = createFloatImage(128, 64, 3)
  map.data.fill(0.3)
  map.data.fill(900, (12 * 128 + 40) * 3, (12 * 128 + 42) * 3)
  return new EnvironmentLight(map, 1)
}

const speckles: ByteImage = (() => {
  const random = createRandom(3)
  return { width: 64, height: 64, channels: 3, data: Uint8Array.from({ length: 64 * 64 * 3 }, () => random.between(30, 220)) }
})()

const plain = (parameters: Partial<OpenPbrParameters>) => sceneOf(createMaterial('x', parameters))
const SCENES: [string, Scene, EnvironmentLight][] = [
  ['grey', plain({}), house],
  ['lacquer', plain({ baseColor: [0.6, 0.03, 0.02], specularRoughness: 0.05 }), house],
  ['coat over diffuse', plain({ coatWeight: 1, coatRoughness: 0.1, baseColor: [0.1, 0.2, 0.5] }), house],
  ['metal', plain({ baseMetalness: 1, baseColor: [0.9, 0.6, 0.4], specularRoughness: 0.3 }), house],
  ['brushed', plain({ baseMetalness: 1, specularRoughness: 0.3, specularRoughnessAnisotropy: 0.7 }), house],
  ['glass', plain({ transmissionWeight: 1, specularRoughness: 0.02 }), house],
  ['cloth', plain({ fuzzWeight: 0.8, baseColor: [0.3, 0.1, 0.1] }), house],
  ['a leaf', plain({ geometryThinWalled: true, subsurfaceWeight: 0.8, subsurfaceColor: [0.3, 0.6, 0.1] }), house],
  ['onyx', plain({ subsurfaceWeight: 1, subsurfaceColor: [0.8, 0.6, 0.3], subsurfaceRadius: 0.02 }), house],
  [
    'speckles',
    sceneOf(createMaterial('x', {}, { tileSizeM: [0.5, 0.5], textures: { baseColor: { image: 0, channel: 0 } } }), [speckles]),
    house,
  ],
  ['under a sun', plain({ specularRoughness: 0.4 }), createSun()],
]

const settings = (given: Partial<RenderSettings>): RenderSettings => ({
  width: WIDTH,
  height: HEIGHT,
  seed: 1,
  noiseTarget: 0,
  maxSamples: 16,
  background: null,
  denoised: true,
  ...given,
})

/** Two pictures of far more samples that have nothing to do with each other. */
function traceReference(scene: Scene, light: EnvironmentLight): [Float32Array, Float32Array] {
  const tracer = createTracer(scene, light, camera, { background: null, width: WIDTH, height: HEIGHT, seed: 77 })
  return [0, 1].map(half => {
    const out = new Float32Array(WIDTH * HEIGHT * 3)
    for (let p = 0; p < WIDTH * HEIGHT; p++) {
      tracer.tracePixel(p % WIDTH, Math.floor(p / WIDTH), 0, REFERENCE_SAMPLES / 2, half as 0 | 1)
      for (let k = 0; k < 3; k++) out[p * 3 + k] = tracer.sums.radiance[k] / (REFERENCE_SAMPLES / 2)
    }
    return out
  }) as [Float32Array, Float32Array]
}

/** The 95th percentile of a tile's error against the reference, less the reference's own. */
function errorOf({ data }: FloatImage, [a, b]: [Float32Array, Float32Array]): number {
  const seen = (d: ArrayLike<number>, i: number) => displayLuminance(d[i], d[i + 1], d[i + 2])
  const tiles: number[] = []
  for (let y0 = 0; y0 < HEIGHT; y0 += 32)
    for (let x0 = 0; x0 < WIDTH; x0 += 32) {
      let sum = 0
      for (let y = y0; y < y0 + 32; y++)
        for (let x = x0; x < x0 + 32; x++) {
          const i = (y * WIDTH + x) * 3
          const [ra, rb] = [seen(a, i), seen(b, i)]
          sum += (seen(data, i) - (ra + rb) / 2) ** 2 - ((ra - rb) / 2) ** 2
        }
      tiles.push(Math.sqrt(Math.max(0, sum / 1024)))
    }
  return percentile(tiles, 0.95)
}

describe('a filtered picture knows the error it has left', () => {
  for (const [name, scene, light] of SCENES)
    it(`${name}: no less than 0.8 of the truth, no more than twice`, () => {
      const reference = traceReference(scene, light)
      for (const maxSamples of [6, 24]) {
        const { image, achievedError } = render(scene, light, camera, settings({ maxSamples }))!
        const truth = errorOf(image, reference)
        expect(achievedError / truth).toBeGreaterThan(0.8)
        expect(achievedError / truth).toBeLessThan(2)
        const { image: raw } = render(scene, light, camera, settings({ maxSamples, denoised: false }))!
        expect(truth).toBeLessThan(errorOf(raw, reference) * 0.9)
      }
    })
})

describe('what tiles say of what is left is believed', () => {
  const random = createRandom(8)
  const noise = () => Math.sqrt(-2 * Math.log(1 - random.next())) * Math.cos(2 * Math.PI * random.next())
  const pixels = 1024
  const tell = (share: number) => ({ share: share + noise() / Math.sqrt(pixels), pixels })

  it('as what they have in common, where they differ by no more than chance', () => {
    const believed = believeShares(Array.from({ length: 400 }, () => tell(0.004)))
    const usual = percentile(believed, 0.5)
    expect(Math.abs(usual - 0.004)).toBeLessThan(0.006)
    // By themselves they would say anything up to ±0.06.
    expect(percentile(believed, 0.9) - percentile(believed, 0.1)).toBeLessThan(0.02)
  })

  it('as each says, where it says more than chance would', () => {
    const odd = { share: 0.9, pixels }
    const believed = believeShares([odd, ...Array.from({ length: 200 }, () => tell(0.004))])
    expect(believed[0]).toBeGreaterThan(0.8)
    const various = Array.from({ length: 200 }, (_, i) => tell(i / 200))
    believeShares(various).forEach((b, i) => {
      expect(Math.abs(b - various[i].share)).toBeLessThan(0.05)
    })
  })

  it('as they stand, where there are few', () => {
    expect(
      believeShares([
        { share: 0.2, pixels },
        { share: -0.1, pixels },
      ]),
    ).toEqual([0.2, -0.1])
    expect(believeShares([])).toEqual([])
  })
})

describe('tiles are judged', () => {
  it('and go on until what is left is little enough, the noisy ones longest', () => {
    const wanted = settings({ noiseTarget: 3 / 255, maxSamples: 400 })
    const rendering = new Rendering(plain({ baseMetalness: 1, specularRoughness: 0.3 }), house, camera, wanted)
    while (rendering.step());
    const counts = rendering.tiles.map(t => t.count)
    expect(rendering.tiles.every(t => t.done && (t.error <= 3 / 255 || t.count === 400))).toBe(true)
    expect(Math.max(...counts)).toBeGreaterThan(Math.min(...counts) * 1.5)
    expect(rendering.tiles.filter(t => t.error <= 3 / 255).length).toBeGreaterThan(3)
  })

  it('and end at the cap, which the result says', () => {
    const result = render(plain({}), house, camera, settings({ noiseTarget: 1e-4, maxSamples: 10 }))!
    expect(result.convergedShare).toBe(0)
    expect(result.achievedError).toBeGreaterThan(1e-4)
    expect(result.samples).toBe(WIDTH * HEIGHT * 10)
  })
})
