import { describe, expect, it } from 'vitest'
import { mergeMeshes, placeMesh } from '../../geometry/mesh'
import { createBox, createSheet, createSphere } from '../../geometry/shapes'
import type { ByteImage, FloatImage } from '../../image/image'
import { createFloatImage } from '../../image/image'
import { createMaterial, type OpenPbrMaterial, type OpenPbrParameters } from '../../material/open-pbr'
import { affineOf } from '../../math/affine'
import { createRandom } from '../../math/random'
import { type Camera, createCamera } from '../film/camera'
import { type Backdrop, EnvironmentLight } from '../lights/environment-light'
import { createExposedLight, createHouseLightMap } from '../lights/house-light'
import type { Lamp } from '../scene/lamp'
import { createScene, type SceneObject } from '../scene/scene'
import { SimdCaster } from '../scene/simd-caster'
import { AREA_NUMBERS, createTracer, KernelTracer, PlainTracer } from './kernel-tracer'
import { PathTracer } from './path-tracer'

const [WIDTH, HEIGHT] = [24, 18]
const pinhole = createCamera([0.6, 0.9, 2.4], [0, 0.35, 0], 45, WIDTH / HEIGHT)
const light = createExposedLight(createHouseLightMap(64), 0)

function pictureOf(channels: number, value: (x: number, y: number, c: number) => number, size = 16): ByteImage {
  const data = Uint8Array.from({ length: size * size * channels }, (_, i) => {
    const [p, c] = [Math.floor(i / channels), i % channels]
    return Math.round(255 * value((p % size) / size, Math.floor(p / size) / size, c))
  })
  return { width: size, height: size, channels, data }
}

/** A ball, a box and a sheet of a material on a grey floor. */
function sceneOf(material: OpenPbrMaterial, images: readonly ByteImage[] = [], lamps: Lamp[] = []) {
  const of = (mesh: SceneObject['mesh']): SceneObject => ({ mesh, material, images })
  const sheet = createSheet(
    8,
    8,
    (s, t) => [s - 0.5, t * 0.7, -0.6 + 0.1 * Math.sin(6 * s)],
    (s, t) => [s, t],
  )
  const floor = placeMesh(createBox(6, 0.1, 6), [0, -0.1, 0])
  return createScene(
    [
      of(createSphere(0.3, [-0.35, 0.3, 0], 32)),
      of(mergeMeshes([placeMesh(createBox(0.4, 0.5, 0.4, 0.03), [0.4, 0, 0.1])])),
      of(sheet),
      { mesh: floor, material: createMaterial('floor', { baseColor: [0.4, 0.4, 0.4] }), images: [] },
    ],
    new Map(),
    lamps,
  )
}

/** Both tracers on the same samples: the share that differs, and both means. */
function compare(
  scene: ReturnType<typeof sceneOf>,
  environment = light,
  background: Backdrop | null = null,
  camera: Camera = pinhole,
) {
  const plain = new PlainTracer(new PathTracer(scene, environment, camera, background, WIDTH, HEIGHT, 7))
  const kernel = createTracer(scene, environment, camera, { background, width: WIDTH, height: HEIGHT, seed: 7 })
  expect(kernel).toBeInstanceOf(KernelTracer)
  let [off, samples, ours, theirs] = [0, 0, 0, 0]
  for (let y = 0; y < HEIGHT; y++)
    for (let x = 0; x < WIDTH; x++)
      for (let s = 0; s < 4; s++) {
        plain.tracePixel(x, y, s, s + 1)
        kernel.tracePixel(x, y, s, s + 1)
        samples++
        for (let k = 0; k < 3; k++) {
          theirs += plain.sums.radiance[k]
          ours += kernel.sums.radiance[k]
        }
        const isOff = [0, 1, 2].some(
          k => Math.abs(plain.sums.radiance[k] - kernel.sums.radiance[k]) > 1e-4 * (0.01 + Math.abs(plain.sums.radiance[k])),
        )
        const seesOther =
          plain.firstMaterial !== kernel.firstMaterial || Math.abs(plain.sums.feature[6] - kernel.sums.feature[6]) > 1e-9
        if (isOff || seesOther) off++
      }
  return { off: off / samples, ours, theirs, rays: [kernel.rays, plain.rays] }
}

/** A path may turn off where rounding decides whether a ray grazes an edge or which lobe is drawn: a few in ten thousand. */
function expectSame(result: ReturnType<typeof compare>): void {
  expect(result.off).toBeLessThan(0.004)
  expect(result.theirs).toBeGreaterThan(0)
  expect(result.ours / result.theirs).toBeCloseTo(1, 2)
  expect(result.rays[0] / result.rays[1]).toBeCloseTo(1, 2)
}

const GLASS = { transmissionWeight: 1, transmissionColor: [0.8, 0.95, 0.9] } satisfies Partial<OpenPbrParameters>
const SURFACES: Record<string, Partial<OpenPbrParameters>> = {
  plain: {},
  'rough diffuse': { baseDiffuseRoughness: 1, specularWeight: 0.4 },
  'diffuse alone': { specularWeight: 0 },
  metal: { baseMetalness: 1, baseColor: [0.9, 0.5, 0.3], specularColor: [0.5, 0.7, 1], specularRoughness: 0.2 },
  'brushed metal': { baseMetalness: 1, specularRoughness: 0.4, specularRoughnessAnisotropy: 0.8, geometryTangentRotation: 0.1 },
  'half a metal': { baseMetalness: 0.5, baseColor: [0.7, 0.2, 0.2] },
  coat: { coatWeight: 0.8, coatColor: [0.8, 0.3, 0.2], coatRoughness: 0.1, coatIor: 1.7 },
  fuzz: { fuzzWeight: 0.9, fuzzColor: [0.9, 0.5, 0.6], fuzzRoughness: 0.4, baseColor: [0.1, 0.02, 0.05] },
  'film on metal': { baseMetalness: 1, thinFilmWeight: 0.7, thinFilmThickness: 0.35, baseColor: [0.6, 0.6, 0.6] },
  'film on glass': { ...GLASS, thinFilmWeight: 1, thinFilmThickness: 0.5 },
  glass: { ...GLASS, specularRoughness: 0.02, transmissionDepth: 0.05 },
  'rough glass': { ...GLASS, specularRoughness: 0.5 },
  'half glass under a coat': { ...GLASS, transmissionWeight: 0.5, coatWeight: 0.6, coatRoughness: 0.3 },
  'a thin pane': { ...GLASS, geometryThinWalled: true, specularRoughness: 0.1 },
  'a leaf': { geometryThinWalled: true, subsurfaceWeight: 0.8, subsurfaceColor: [0.3, 0.6, 0.1], baseColor: [0.1, 0.3, 0.05] },
  wax: { subsurfaceWeight: 0.7, subsurfaceColor: [0.9, 0.6, 0.4] },
  'wax that is seen into': { subsurfaceWeight: 0.8, subsurfaceColor: [0.9, 0.6, 0.4], subsurfaceRadius: 0.02 },
  'marble under a coat': {
    subsurfaceWeight: 1,
    subsurfaceColor: [0.9, 0.9, 0.85],
    subsurfaceRadius: 0.005,
    subsurfaceScatterAnisotropy: 0.6,
    coatWeight: 0.7,
    coatColor: [0.9, 0.8, 0.7],
    fuzzWeight: 0.3,
  },
  'glass that bends colours apart': { ...GLASS, specularRoughness: 0.02, transmissionDispersionScale: 1 },
  'rough glass that does': { ...GLASS, specularRoughness: 0.4, transmissionDispersionScale: 0.5, thinFilmWeight: 0.5 },
  'all at once': { coatWeight: 0.5, fuzzWeight: 0.5, baseMetalness: 0.3, thinFilmWeight: 0.4, baseDiffuseRoughness: 0.5 },
  glowing: { emissionLuminance: 300, emissionColor: [1, 0.6, 0.3] },
}

describe('the tracer in WebAssembly traces what the plain one does', () => {
  for (const [name, parameters] of Object.entries(SURFACES))
    it(name, () => expectSame(compare(sceneOf(createMaterial(name, parameters)))))

  it('looks through a lens as the plain tracer does, and is sharp at its distance only', () => {
    const grey = createMaterial('grey', { baseColor: [0.5, 0.3, 0.2] })
    expectSame(compare(sceneOf(grey), light, null, { ...pinhole, lens: { radiusM: 0.05, sharpM: 2.4 } }))
    // A white edge at 2 m before black: how many columns it takes to go from one to the other.
    const white = createMaterial('white', { baseColor: [1, 1, 1] })
    const scene = createScene([{ mesh: placeMesh(createBox(2, 4, 0.01), [1, -2, -2]), material: white, images: [] }])
    const columnsOfEdge = (lens: Camera['lens']) => {
      const front: Camera = { ...createCamera([0, 0, 0], [0, 0, -1], 24, WIDTH / HEIGHT), ...(lens ? { lens } : {}) }
      const tracer = createTracer(scene, light, front, { background: [0, 0, 0], width: WIDTH, height: HEIGHT, seed: 3 })
      const row = Array.from({ length: WIDTH }, (_, x) => {
        tracer.tracePixel(x, 9, 0, 256)
        return tracer.sums.radiance[1]
      })
      const most = Math.max(...row)
      return row.filter(v => v > most * 0.1 && v < most * 0.9).length
    }
    expect(columnsOfEdge(undefined)).toBeLessThanOrEqual(2)
    expect(columnsOfEdge({ radiusM: 0.5, sharpM: 2 })).toBeLessThanOrEqual(2)
    expect(columnsOfEdge({ radiusM: 0.5, sharpM: 1 })).toBeGreaterThan(3)
  })

  it('with textures of colour, roughness, metalness and normals, of one channel and four, encoded and not', () => {
    const images = [
      pictureOf(3, (x, y, c) => (c === 0 ? x : c === 1 ? y : 0.4)),
      pictureOf(1, (x, y) => (x + y) / 2),
      pictureOf(3, (x, _, c) => (c === 2 ? 1 : 0.5 + (c === 0 ? 0.3 * Math.sin(20 * x) : 0))),
      pictureOf(4, (x, _, c) => (c === 1 ? x : 0.2)),
    ]
    const material = createMaterial(
      'textured',
      { emissionLuminance: 100, emissionColor: [1, 0.5, 0.2] },
      {
        tileSizeM: [0.3, 0.4],
        textures: {
          baseColor: { image: 0, channel: 0 },
          specularRoughness: { image: 1, channel: 0, inverted: true },
          geometryNormal: { image: 2, channel: 0, handedness: 'directX' },
          baseMetalness: { image: 3, channel: 1 },
          emissionColor: { image: 0, channel: 0 },
        },
      },
    )
    expectSame(compare(sceneOf(material, images)))
    expectSame(compare(sceneOf({ ...material, tiling: 'once' }, images)))
  })

  it('with heights, with holes, and with a leaf that has only its own picture', () => {
    const bumps = pictureOf(1, (x, y) => 0.5 + 0.5 * Math.sin(12 * x) * Math.cos(9 * y))
    const holes = pictureOf(4, (x, y, c) => (c === 3 ? ((x * 4 + y * 4) % 2 < 1 ? 1 : 0) : 0.5))
    const high = createMaterial('high', {}, { tileSizeM: [0.5, 0.5], textures: { displacement: { image: 0, channel: 0 } } })
    expectSame(compare(sceneOf(high, [bumps])))
    const leaf = createMaterial(
      'leaf',
      { geometryThinWalled: true, subsurfaceWeight: 1 },
      { textures: { baseColor: { image: 0, channel: 0 }, geometryOpacity: { image: 0, channel: 3 } } },
    )
    expectSame(compare(sceneOf(leaf, [holes])))
    expectSame(compare(sceneOf(createMaterial('gone', { geometryOpacity: 0.2 }))))
  })

  it('under a sun, before a plain background, and by lamps with a profile', () => {
    const sun: FloatImage = createFloatImage(64, 32, 3)
    sun.data.fill(0.2)
    sun.data.fill(4000, (6 * 64 + 20) * 3, (6 * 64 + 21) * 3)
    expectSame(compare(sceneOf(createMaterial('plain')), new EnvironmentLight(sun, 0.4, 0.7)))
    expectSame(compare(sceneOf(createMaterial('plain')), light, [0.1, 0.2, 0.3]))
    // Behind everything another map, turned otherwise; what it lights with stays the light.
    const striped = createFloatImage(64, 32, 3)
    striped.data.forEach((_, i) => {
      striped.data[i] = (Math.floor(i / 12) % 5) / 4
    })
    const clear = createMaterial('pane', { transmissionWeight: 1, geometryThinWalled: true, specularRoughness: 0 })
    expectSame(compare(sceneOf(clear), light, new EnvironmentLight(striped, 0.8, 1.9)))
    const lamp = (photometricProfile: Lamp['photometricProfile']): Lamp => ({
      position: [0.2, 1.4, 0.5],
      radius: 0.05,
      nearest: 0.3,
      intensity: [3, 2.5, 2],
      photometricProfile,
    })
    const lamps = [lamp(null), lamp((_, y) => Math.max(0, -y) ** 2)]
    expectSame(compare(sceneOf(createMaterial('plain'), [], lamps), light))
  })

  it('things that are placed, turned, stretched and mirrored, some of them glass, beside what stands as it is', () => {
    const ball = { mesh: createSphere(0.2, [0, 0.2, 0], 24), images: [pictureOf(3, (x, y, c) => (c === 0 ? x : y))] }
    const wood = createMaterial('wood', {}, { tileSizeM: [0.3, 0.3], textures: { baseColor: { image: 0, channel: 0 } } })
    const placed = [
      {
        objects: [
          { ...ball, material: wood },
          { mesh: createBox(0.1, 0.3, 0.1, 0.01), material: createMaterial('vase', GLASS), images: [] },
        ],
        placements: [affineOf([-0.5, 0, 0], 0.4), affineOf([0.5, 0.1, 0.2], 2, [1.5, 0.8, -1]), affineOf([0, 0.4, -0.4], 1, 0.5)],
      },
    ]
    const floor = placeMesh(createBox(6, 0.1, 6), [0, -0.1, 0])
    const loose: SceneObject[] = [{ mesh: floor, material: createMaterial('floor', { baseColor: [0.4, 0.4, 0.4] }), images: [] }]
    expectSame(compare(createScene(loose, new Map(), [], placed)))
    expectSame(compare(createScene([], new Map(), [], placed)))

    // What is placed is what would be seen if it were written out there.
    const at = (offset: [number, number, number], yaw: number, scale: number) => affineOf(offset, yaw, scale)
    const once = createScene(loose, new Map(), [], [{ ...placed[0], placements: [at([0.1, 0, 0.3], 0.7, 1.2)] }])
    const out = placed[0].objects.map(o => ({ ...o, mesh: placeMesh(o.mesh, [0.1, 0, 0.3], 0.7, 1.2) }))
    const written = createScene([...loose, ...out])
    const seen = [once, written].map(scene => compare(scene).ours)
    expect(seen[0] / seen[1]).toBeCloseTo(1, 3)
  })

  it('adds up the same over samples, and takes turns with another view of the same scene', () => {
    const scene = sceneOf(createMaterial('plain', { coatWeight: 0.3 }))
    const at = (seed: number, isPlain: boolean) =>
      isPlain
        ? new PlainTracer(new PathTracer(scene, light, pinhole, null, WIDTH, HEIGHT, seed))
        : createTracer(scene, light, pinhole, { background: null, width: WIDTH, height: HEIGHT, seed })
    const tracers = [3, 4].map(seed => [at(seed, true), at(seed, false)])
    for (let p = 0; p < 40; p++)
      for (const [plain, kernel] of tracers) {
        for (const tracer of [plain, kernel]) tracer.tracePixel(p % WIDTH, 6 + (p >> 3), 2, 11, 1)
        const { radiance, squares, feature } = kernel.sums
        const area = kernel.traceArea({ x0: (p % WIDTH) - 1, y0: 5 + (p >> 3), width: 3, height: 2 }, 2, 11, 1)
        expect([...area.subarray(4 * AREA_NUMBERS, 5 * AREA_NUMBERS)]).toEqual([...radiance, squares, ...feature])
        for (const [a, b] of [
          [plain.sums.squares, kernel.sums.squares],
          [plain.sums.radiance[0], kernel.sums.radiance[0]],
          [plain.sums.feature[5], kernel.sums.feature[5]],
        ])
          expect(Math.abs(a - b)).toBeLessThan(1e-4 * (1 + Math.abs(a)))
      }
  })
})

describe('whatever it is given', () => {
  const random = createRandom(5)
  const odd = [0, -1, 1e30, -1e30, Number.NaN, Number.POSITIVE_INFINITY, 1e-30]
  const pick = () => odd[random.index(odd.length)]

  it('brings back numbers, and reads nothing that is not its own', () => {
    for (let round = 0; round < 40; round++) {
      const parameters = Object.fromEntries(
        Object.entries(createMaterial('x').parameters).map(([name, value]) => [
          name,
          random.next() < 0.6
            ? value
            : Array.isArray(value)
              ? [pick(), pick(), pick()]
              : typeof value === 'boolean'
                ? true
                : pick(),
        ]),
      )
      const image = pictureOf(1 + random.index(4), () => random.next(), 1 + random.index(3))
      const material = createMaterial('odd', parameters as Partial<OpenPbrParameters>, {
        tileSizeM: [pick(), pick()],
        textures: {
          baseColor: { image: 0, channel: 0 },
          displacement: { image: 0, channel: 0 },
          geometryOpacity: { image: 0, channel: (image.channels - 1) as 0 },
        },
      })
      const mesh = createSphere(0.4, [0, 0.4, 0], 8)
      for (let i = 0; i < 6; i++) {
        mesh.positions[random.index(mesh.positions.length)] = pick()
        mesh.normals[random.index(mesh.normals.length)] = pick()
        mesh.uvs[random.index(mesh.uvs.length)] = pick()
      }
      const scene = createScene([{ mesh, material, images: [image] }])
      const tracer = createTracer(scene, light, pinhole, { background: null, width: WIDTH, height: HEIGHT, seed: round })
      for (let p = 0; p < WIDTH * HEIGHT; p++) {
        tracer.tracePixel(p % WIDTH, Math.floor(p / WIDTH), 0, 1)
        expect(tracer.sums.radiance.every(Number.isFinite)).toBe(true)
      }
    }
  })

  it('a scene of nothing shows the light around', () => {
    const scene = createScene([])
    expect(scene.caster).toBeInstanceOf(SimdCaster)
    const tracer = createTracer(scene, light, pinhole, { background: null, width: 4, height: 4, seed: 1 })
    tracer.tracePixel(2, 2, 0, 4)
    expect(tracer.sums.radiance[0]).toBeGreaterThan(0)
    expect([tracer.firstMaterial, tracer.rays]).toEqual([-1, 4])
  })
})
