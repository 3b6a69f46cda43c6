import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox, createSheet } from '../../geometry/shapes'
import { createFloatImage, type FloatImage } from '../../image/image'
import { createMaterial } from '../../material/open-pbr'
import { developForDisplay } from '../film/develop'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { PREVIEW_ASPECT, qualityOf, rigSchema } from '../rigs/rig'
import { directionToCamera } from '../stages/stage-subject'
import { renderPreview } from './preview'

const quick = { width: 64, noiseTarget: 1, maxSamples: 4, denoised: false }
const red = createMaterial('red', { baseColor: [0.5, 0.03, 0.03], specularRoughness: 0.6 })

/** Pixels that are clearly the subject's: much redder than the grey rig. */
function redBox({ width, height, data }: FloatImage) {
  let [x0, x1, y0, y1] = [width, -1, height, -1]
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * 3
      if (data[at] < data[at + 1] * 2) continue
      x0 = Math.min(x0, x)
      x1 = Math.max(x1, x)
      y0 = Math.min(y0, y)
      y1 = Math.max(y1, y)
    }
  return { left: x0 / width, right: (x1 + 1) / width, top: y0 / height, bottom: (y1 + 1) / height }
}

describe('rigs', () => {
  it('refuse what is no rig', () => {
    const sound = HOUSE_RIGS['material-stage']
    expect(rigSchema.safeParse({ ...sound, name: 'Not A Name' }).success).toBe(false)
    expect(rigSchema.safeParse({ ...sound, backdrops: [2] }).success).toBe(false)
    expect(rigSchema.safeParse({ ...sound, camera: { ...sound.camera, focalMm: 1 } }).success).toBe(false)
    expect(rigSchema.safeParse({ ...sound, revision: 0 }).success).toBe(false)
  })

  it('drafts are filtered, finals are not; finals are held to a finer target', () => {
    for (const rig of Object.values(HOUSE_RIGS)) {
      const [draft, final] = [qualityOf(rig, 'draft'), qualityOf(rig, 'final')]
      expect([draft.denoised, final.denoised]).toEqual([true, true])
      expect(final.noiseTarget).toBeLessThan(draft.noiseTarget)
    }
  })

  it('say where the camera stands: azimuth towards the left of the subject, elevation up', () => {
    const at = (azimuthDeg: number, elevationDeg: number) =>
      directionToCamera({
        ...HOUSE_RIGS['material-stage'],
        camera: { ...HOUSE_RIGS['material-stage'].camera, azimuthDeg, elevationDeg },
      }).map(v => Math.round(v * 1e6) / 1e6)
    expect(at(0, 0)).toEqual([0, 0, 1])
    expect(at(90, 0)).toEqual([1, 0, 0])
    expect(at(0, 90)).toEqual([0, 1, 0])
  })
})

describe('the backdrop', () => {
  const chosenFor = (albedo: number) =>
    renderPreview(
      {
        kind: 'model',
        objects: [
          {
            mesh: createBox(0.5, 0.5, 0.5),
            material: createMaterial('grey', { baseColor: [albedo, albedo, albedo], specularRoughness: 0.8 }),
            images: [],
          },
        ],
      },
      { rig: { ...HOUSE_RIGS['model-three-quarter'], scaleBar: false }, quality: quick, seed: 1 },
    )!.backdrop!

  it('is the preferred one unless the subject would be lost in it', () => {
    const { backdrops, minContrast } = HOUSE_RIGS['model-three-quarter']
    const albedos = [0.02, 0.3, 0.45, 0.6, 0.9]
    const choices = albedos.map(chosenFor)
    expect(choices[0].albedo).toBe(backdrops[0])
    expect(new Set(choices.map(c => c.albedo)).size).toBeGreaterThan(1)
    for (const choice of choices) expect(choice.contrast).toBeGreaterThanOrEqual(minContrast)
  })

  it('may be given, and is then not looked for', () => {
    const { backdrop } = renderPreview(
      { kind: 'model', objects: [{ mesh: createBox(1, 1, 1), material: red, images: [] }] },
      { rig: HOUSE_RIGS['model-three-quarter'], quality: quick, seed: 1, backdropAlbedo: 0.3 },
    )!
    expect(backdrop).toBeNull()
  })
})

describe('every material stage', () => {
  it.each(['material-stage', 'cloth-drape', 'glass-vessel', 'liquid-vessel', 'material-close-up', 'material-wall'] as const)(
    '%s shows the material large, and none of it is lost',
    name => {
      const { image, backdrop } = renderPreview(
        { kind: 'material', material: red, images: [] },
        { rig: HOUSE_RIGS[name], quality: quick, seed: 1 },
      )!
      const box = redBox(image)
      expect(Math.max((box.right - box.left) * PREVIEW_ASPECT, box.bottom - box.top)).toBeGreaterThan(0.45)
      expect(image.data.every(Number.isFinite)).toBe(true)
      expect(backdrop!.contrast).toBeGreaterThan(5)
    },
  )

  it('a leaf is found in the crown of a plant, and taken near', () => {
    const leaf = createMaterial('leaf', { geometryThinWalled: true, baseColor: [0.5, 0.03, 0.03] })
    const trunk = createMaterial('trunk', { baseColor: [0.2, 0.2, 0.2] })
    const sheet = (x: number, y: number, z: number) =>
      placeMesh(
        createSheet(
          1,
          1,
          (s, t) => [(s - 0.5) * 0.1, (t - 0.5) * 0.1, 0],
          () => [0, 0],
        ),
        [x, y, z],
      )
    const objects = [
      { mesh: createBox(0.1, 2, 0.1), material: trunk, images: [] },
      ...[-0.4, 0, 0.4].map(x => ({ mesh: sheet(x, 1, 0.4), material: leaf, images: [] })),
    ]
    const draw = (name: 'plant-three-quarter' | 'leaf-close-up') =>
      redBox(renderPreview({ kind: 'model', objects }, { rig: HOUSE_RIGS[name], quality: quick, seed: 1 })!.image)
    const whole = draw('plant-three-quarter')
    const near = draw('leaf-close-up')
    expect(near.right - near.left).toBeGreaterThan((whole.right - whole.left) * 1.3)
    expect(near.bottom - near.top).toBeGreaterThan(0.4)
  })
})

describe('a model on its rig', () => {
  it.each([
    ['a cube', 0.6, 0.6, 0.6],
    ['a plank', 3, 0.03, 0.2],
    ['a pole', 0.06, 2.4, 0.06],
    ['a bead', 0.012, 0.012, 0.012],
    ['a barn', 14, 7, 9],
  ])('%s is in the frame whole, large and near the middle', (_name, w, h, d) => {
    const { image, backdrop } = renderPreview(
      { kind: 'model', objects: [{ mesh: createBox(w, h, d), material: red, images: [] }] },
      { rig: { ...HOUSE_RIGS['model-three-quarter'], scaleBar: false }, quality: quick, seed: 1 },
    )!
    expect(image.width / image.height).toBeCloseTo(PREVIEW_ASPECT)
    const box = redBox(image)
    // It takes 84 % of the side that it reaches first; a pixel or two at this size is the red it throws on the floor.
    const extent = Math.max(box.right - box.left, box.bottom - box.top)
    expect(extent).toBeGreaterThan(0.8)
    expect(extent).toBeLessThan(0.9)
    expect(backdrop!.coverage).toBeGreaterThan(0.8)
    expect(backdrop!.coverage).toBeLessThan(0.88)
    expect(backdrop!.contrast).toBeGreaterThan(HOUSE_RIGS['model-three-quarter'].minContrast)
    expect(Math.abs((box.left + box.right) / 2 - 0.5)).toBeLessThan(0.08)
    expect(Math.abs((box.top + box.bottom) / 2 - 0.5)).toBeLessThan(0.08)
  })

  it('the backdrop is a mid grey without a cast, and not clipped', () => {
    const { image } = renderPreview(
      { kind: 'model', objects: [{ mesh: createBox(0.5, 0.5, 0.5), material: red, images: [] }] },
      { rig: HOUSE_RIGS['model-three-quarter'], quality: { ...quick, maxSamples: 16 }, seed: 1 },
    )!
    const { data, width } = developForDisplay(image)
    let sum = [0, 0, 0]
    for (let x = 0; x < width; x++) sum = sum.map((v, c) => v + data[x * 3 + c])
    const [r, g, b] = sum.map(v => v / width)
    expect(r).toBeGreaterThan(110)
    expect(r).toBeLessThan(225)
    expect(Math.max(r, g, b) - Math.min(r, g, b)).toBeLessThan(6)
  })
})

describe('an environment on its rig', () => {
  const sky = createFloatImage(128, 64, 3)
  for (let j = 0; j < 64; j++)
    for (let i = 0; i < 128; i++) sky.data.set(j < 32 ? [0.3, 0.5, 1] : [0.2, 0.15, 0.1], (j * 128 + i) * 3)
  const draw = (sun: { azimuthDeg: number; elevationDeg: number } | null, map = sky) =>
    renderPreview({ kind: 'environment', map, sun }, { rig: HOUSE_RIGS['environment-strip'], quality: quick, seed: 1 })!.image

  it('shows the whole panorama above: blue over brown', () => {
    const image = draw(null)
    const at = (x: number, y: number) => [...image.data.subarray((y * image.width + x) * 3, (y * image.width + x) * 3 + 3)]
    for (const x of [1, 20, 40, 62]) {
      expect(at(x, 4)[2]).toBeGreaterThan(at(x, 4)[0] * 2)
      expect(at(x, 27)[0]).toBeGreaterThan(at(x, 27)[2] * 1.5)
    }
  })

  it('marks the sun where it is, and only when there is one', () => {
    const bare = draw(null)
    const marked = draw({ azimuthDeg: 90, elevationDeg: 45 })
    let [x, y, n] = [0, 0, 0]
    for (let p = 0; p < 64 * 32; p++) {
      if (Math.abs(marked.data[p * 3] - bare.data[p * 3]) < 0.05) continue
      x += p % 64
      y += Math.floor(p / 64)
      n++
    }
    expect(n).toBeGreaterThan(4)
    expect(x / n).toBeCloseTo(0.75 * 64, -1)
    expect(y / n).toBeCloseTo(0.25 * 32, -1)
  })

  it('is exposed by its own light: twice the radiance is the same picture', () => {
    const bright = { ...sky, data: sky.data.map(v => v * 2) }
    const a = draw(null)
    const b = draw(null, bright)
    let worst = 0
    for (let i = 0; i < a.data.length; i++) worst = Math.max(worst, Math.abs(a.data[i] - b.data[i]))
    expect(worst).toBeLessThan(0.01)
  })
})
