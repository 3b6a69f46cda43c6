import { beforeAll, describe, expect, it } from 'vitest'
import { encodeSrgb } from '../color/srgb'
import { createBox } from '../geometry/shapes'
import { type ByteImage, createFloatImage, type FloatImage } from '../image/image'
import { createMaterial } from '../material/open-pbr'
import { createRandom } from '../math/random'
import { mean } from '../math/statistics'
import { developForDisplay } from '../render/film/develop'
import { renderPreview } from '../render/pictures/preview'
import { HOUSE_RIGS } from '../render/rigs/house-rigs'
import { auditPicture, looksLinear } from './audit-picture'
import { comparePictures } from './compare-pictures'
import { computeFlip } from './flip'

const plain = (r: number, g: number, b: number, size = 48): ByteImage => ({
  width: size,
  height: size,
  channels: 3,
  data: Uint8Array.from({ length: size * size * 3 }, (_, i) => [r, g, b][i % 3]),
})
const flipOf = (a: ByteImage, b: ByteImage) => mean(computeFlip(a, b).data)

describe('FLIP', () => {
  it('is nothing between equals, and the same both ways', () => {
    const random = createRandom(3)
    const noise: ByteImage = { ...plain(0, 0, 0), data: Uint8Array.from({ length: 48 * 48 * 3 }, () => random.index(256)) }
    expect(Math.max(...computeFlip(noise, noise).data)).toBe(0)
    const other = plain(120, 90, 200)
    expect(flipOf(noise, other)).toBeCloseTo(flipOf(other, noise), 6)
  })

  it('runs from a hair for one code to nearly all for black and white, and all for green and blue', () => {
    expect(flipOf(plain(128, 128, 128), plain(129, 129, 129))).toBeLessThan(0.03)
    expect(flipOf(plain(128, 128, 128), plain(129, 129, 129))).toBeGreaterThan(0)
    expect(flipOf(plain(0, 0, 0), plain(255, 255, 255))).toBeGreaterThan(0.9)
    expect(flipOf(plain(0, 255, 0), plain(0, 0, 255))).toBeCloseTo(1, 3)
  })

  it('grows with the difference', () => {
    const steps = [1, 4, 10, 25, 60, 120].map(d => flipOf(plain(100, 100, 100), plain(100 + d, 100, 100)))
    expect(steps).toEqual([...steps].sort((a, b) => a - b))
  })

  it('forgives a fine dither that the eye averages, not a coarse one', () => {
    const checks = (cell: number): ByteImage => {
      const image = plain(0, 0, 0, 96)
      for (let p = 0; p < 96 * 96; p++) {
        const on = (Math.floor((p % 96) / cell) + Math.floor(p / 96 / cell)) % 2
        image.data.fill(on ? 140 : 116, p * 3, p * 3 + 3)
      }
      return image
    }
    const grey = plain(129, 129, 129, 96)
    expect(flipOf(checks(1), grey)).toBeLessThan(flipOf(checks(12), grey) * 0.6)
  })

  it('shows a difference where it is', () => {
    const a = plain(120, 120, 120, 64)
    const b = plain(120, 120, 120, 64)
    for (let y = 40; y < 56; y++) for (let x = 40; x < 56; x++) b.data.set([200, 60, 60], (y * 64 + x) * 3)
    const { data } = computeFlip(a, b)
    expect(data[48 * 64 + 48]).toBeGreaterThan(0.4)
    expect(data[8 * 64 + 8]).toBeLessThan(0.001)
  })

  it('refuses pictures that cannot be laid over each other', () => {
    expect(() => computeFlip(plain(0, 0, 0, 8), plain(0, 0, 0, 9))).toThrow(RangeError)
    expect(() => computeFlip({ ...plain(0, 0, 0), channels: 1 }, plain(0, 0, 0))).toThrow(RangeError)
  })
})

describe('two renderings in numbers', () => {
  const flat = (width: number, height: number, color: number[]): FloatImage => {
    const image = createFloatImage(width, height, 3)
    for (let i = 0; i < image.data.length; i++) image.data[i] = color[i % 3]
    return image
  }

  it('a draft and a final of one colour are one picture', () => {
    const result = comparePictures(flat(64, 48, [0.2, 0.3, 0.1]), flat(128, 96, [0.2, 0.3, 0.1]))
    expect(result.map.width).toBe(64)
    expect(result.meanFlip).toBeLessThan(1e-3)
    expect(result.deltaEOfMeans).toBeLessThan(0.5)
  })

  it('a redder one is told by all three figures', () => {
    const result = comparePictures(flat(64, 48, [0.2, 0.2, 0.2]), flat(64, 48, [0.3, 0.2, 0.2]))
    expect(result.meanFlip).toBeGreaterThan(0.05)
    expect(result.p95Flip).toBeGreaterThanOrEqual(result.meanFlip - 1e-6)
    expect(result.deltaEOfMeans).toBeGreaterThan(5)
    expect(() => comparePictures(flat(64, 48, [0, 0, 0]), flat(64, 64, [0, 0, 0]))).toThrow(RangeError)
  })
})

describe('the audit of a picture', () => {
  const quality = { width: 96, noiseTarget: 1, maxSamples: 4, denoised: true }
  let made: FloatImage[] = []
  beforeAll(() => {
    made = [
      [0.5, 0.05, 0.05],
      [0.03, 0.03, 0.04],
      [0.8, 0.78, 0.7],
    ].map(
      baseColor =>
        renderPreview(
          {
            kind: 'model',
            objects: [
              {
                mesh: createBox(0.5, 0.6, 0.5, 0.01),
                material: createMaterial('box', { baseColor: baseColor as [number, number, number] }),
                images: [],
              },
            ],
          },
          { rig: { ...HOUSE_RIGS['model-three-quarter'], scaleBar: false }, quality, seed: 1 },
        )!.image,
    )
  })
  /** Stored as it is, without its display encoding. */
  const storeLinear = ({ width, height, data }: FloatImage): ByteImage => ({
    width,
    height,
    channels: 3,
    data: Uint8Array.from(data, v => Math.min(255, Math.round(v * 255))),
  })
  const part = ({ width, height, data }: ByteImage, x0: number, y0: number, w: number, h: number): ByteImage => ({
    width: w,
    height: h,
    channels: 3,
    data: Uint8Array.from({ length: w * h * 3 }, (_, i) => {
      const p = Math.floor(i / 3)
      const x = Math.min(width - 1, Math.max(0, x0 + (p % w)))
      const y = Math.min(height - 1, Math.max(0, y0 + Math.floor(p / w)))
      return data[(y * width + x) * 3 + (i % 3)]
    }),
  })

  it("finds nothing wrong with a rig's own", () => {
    for (const image of made) {
      const audit = auditPicture(developForDisplay(image))
      expect(audit.faults).toEqual([])
      expect(audit.score).toBe(100)
      expect(audit.coverage).toBeGreaterThan(0.6)
      // Its shadow counts with it, and reaches to the side.
      expect(audit.coverage).toBeLessThan(1.05)
    }
  })

  it('knows a picture saved without its display encoding', () => {
    for (const image of made) expect(looksLinear(developForDisplay(image))).toBe(false)
    // The third is white on grey: nothing dark in it could tell.
    for (const image of made.slice(0, 2)) expect(auditPicture(storeLinear(image)).faults).toContain('looksLinear')
  })

  it('knows an odd aspect, a cut, an off-centre and a lost subject, and a wrong exposure', () => {
    const sound = developForDisplay(made[0])
    expect(auditPicture(part(sound, 12, 0, 72, 72)).faults).toContain('aspect')
    expect(auditPicture(part(sound, 44, 6, 80, 60)).faults).toContain('subjectCut')
    expect(auditPicture(part(sound, -22, 4, 96, 72)).faults).toContain('offCentre')
    const empty = plain(128, 128, 128, 96)
    expect(auditPicture({ ...empty, height: 72, data: empty.data.subarray(0, 96 * 72 * 3) }).faults).toEqual(
      expect.arrayContaining(['subjectTooSmall', 'lowContrast']),
    )
    const dark = { ...sound, data: sound.data.map(v => encodeSrgb((v / 255) ** 2.2 * 0.02) * 255) }
    expect(auditPicture(dark).faults).toContain('dark')
    for (const faulty of [part(sound, 12, 0, 72, 72), dark]) expect(auditPicture(faulty).score).toBeLessThan(90)
  })
})
