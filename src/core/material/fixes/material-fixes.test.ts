import { describe, expect, it } from 'vitest'
import { makeSurfaceMaps } from '../../../../tests/fixtures'
import { linearToSrgbByte, SRGB_TO_LINEAR } from '../../color/srgb'
import type { ByteImage, Image } from '../../image/image'
import { createRandom } from '../../math/random'
import { checkBakedLight } from '../checks/baked-light.check'
import { checkTileSeam } from '../checks/tile-seam.check'
import { measureLowFrequencies } from '../low-frequencies'
import type { MaterialSubject } from '../material-subject'
import { findNormalHandedness, measureNormalLengths } from '../normal-map'
import { makeTileable } from './make-tileable'
import { flipGreen, renormalize } from './normal-fixes'
import { removeBakedLight } from './remove-baked-light'
import { encodeForDisplay, invertValues } from './value-fixes'

const maps = makeSurfaceMaps(128)
const imageOf = (role: string): ByteImage => maps.find(m => m.role === role)! as unknown as ByteImage
const asSubject = (image: Image, role: 'baseColor' | 'normal' = 'baseColor'): MaterialSubject => ({
  maps: [
    {
      role,
      path: 'map.png',
      image,
      widthPx: image.width,
      heightPx: image.height,
      bitsPerChannel: 8,
      byContentOnly: false,
      profile: null,
    },
  ],
  widthMm: 500,
  category: null,
})
const mapColor = (image: ByteImage, change: (linear: number, u: number, v: number) => number): ByteImage => ({
  ...image,
  data: image.data.map((code, i) => {
    const p = Math.floor(i / image.channels)
    const linear = change(SRGB_TO_LINEAR[code], (p % image.width) / image.width, Math.floor(p / image.width) / image.height)
    return linearToSrgbByte(Math.min(1, linear))
  }),
})

describe('normal map fixes', () => {
  it('a flipped green is flipped back to the bit, at 8 and at 16 bits', () => {
    const normal = imageOf('normal')
    expect(findNormalHandedness(flipGreen(normal)).handedness).toBe('directX')
    expect(flipGreen(flipGreen(normal)).data).toEqual(normal.data)
    const deep = { ...normal, data: Uint16Array.from(normal.data, v => v * 257) }
    expect(flipGreen(flipGreen(deep)).data).toEqual(deep.data)
  })

  it('lengths come back to 1 and directions stay', () => {
    const normal = imageOf('normal')
    const short = { ...normal, data: normal.data.map(v => Math.round(127.5 + (v - 127.5) * 0.7)) }
    expect(measureNormalLengths(short).offLengthShare).toBeGreaterThan(0.9)
    const fixed = renormalize(short)
    expect(measureNormalLengths(fixed).offLengthShare).toBe(0)
    const far = fixed.data.reduce((most, v, i) => Math.max(most, Math.abs(v - normal.data[i])), 0)
    expect(far).toBeLessThanOrEqual(3)
    const nothing = { width: 1, height: 1, channels: 3, data: new Uint8Array([128, 128, 128]) }
    expect([...renormalize(nothing).data]).toEqual([128, 128, 255])
  })
})

describe('value fixes', () => {
  it('gloss becomes roughness and back; alpha stays', () => {
    const gloss = { width: 2, height: 1, channels: 2, data: new Uint8Array([0, 7, 200, 9]) }
    expect([...invertValues(gloss).data]).toEqual([255, 7, 55, 9])
    expect(invertValues(invertValues(gloss)).data).toEqual(gloss.data)
  })

  it('a colour stored linear gets its encoding', () => {
    const color = imageOf('basecolor')
    const stored = { ...color, data: color.data.map(code => Math.round(SRGB_TO_LINEAR[code] * 255)) }
    const fixed = encodeForDisplay(stored)
    // Eight linear bits lose the darks; what is left is the same colour.
    for (let i = 0; i < color.data.length; i += 97)
      if (color.data[i] > 60) expect(Math.abs(fixed.data[i] - color.data[i])).toBeLessThan(8)
  })
})

describe('light baked into a colour', () => {
  const color = imageOf('basecolor')
  const lit = mapColor(
    color,
    (linear, u, v) => linear * Math.exp(0.3 * Math.cos(2 * Math.PI * u) + 0.2 * Math.sin(2 * Math.PI * v)),
  )

  it('is found, and not where there is none', () => {
    expect(checkBakedLight(asSubject(color))).toEqual([])
    const [finding] = checkBakedLight(asSubject(lit))
    expect(finding.code).toBe('bakedLight')
    // Two cosines: the root mean square is that of their amplitudes over the root of two.
    expect(finding.evidence.amplitude).toBeCloseTo(Math.hypot(0.3, 0.2) / Math.SQRT2, 1)
  })

  it('is taken out: what is left is the colour as it was, its mean kept', () => {
    const fixed = removeBakedLight(lit)
    expect(measureLowFrequencies(fixed).amplitude).toBeLessThan(0.01)
    expect(checkBakedLight(asSubject(fixed))).toEqual([])
    const meanOff = (a: ByteImage, b: ByteImage) => a.data.reduce((sum, v, i) => sum + Math.abs(v - b.data[i]), 0) / a.data.length
    expect(meanOff(fixed, color)).toBeLessThan(meanOff(lit, color) / 5)
    expect(meanOff(fixed, color)).toBeLessThan(4)
  })
})

describe('making a tile wrap', () => {
  /** Soft blotches that do not wrap: a window of a larger picture. */
  function makeWindow(size: number): ByteImage {
    const random = createRandom(5).next
    const spots = Array.from({ length: 900 }, () => [random() * size * 2, random() * size * 2, 2 + random() * 6, random()])
    const data = new Uint8Array(size * size * 3).fill(110)
    for (const [cx, cy, r, tone] of spots)
      for (let y = Math.max(0, Math.floor(cy - r)); y < Math.min(size, cy + r); y++)
        for (let x = Math.max(0, Math.floor(cx - r)); x < Math.min(size, cx + r); x++)
          if ((x - cx) ** 2 + (y - cy) ** 2 < r * r) data.fill(70 + tone * 110, (y * size + x) * 3, (y * size + x) * 3 + 3)
    // A step that no interior column has.
    for (let p = 0; p < size * size; p++) for (let c = 0; c < 3; c++) data[p * 3 + c] += Math.round(((p % size) / size) * 60)
    return { width: size, height: size, channels: 3, data }
  }

  it('the seam goes, the size stays, and most of the picture is untouched', () => {
    const image = makeWindow(256)
    expect(checkTileSeam(asSubject(image)).map(f => f.evidence.axis)).toContain('x')
    const [fixed] = makeTileable([image], 'x')
    expect([fixed.width, fixed.height]).toEqual([256, 256])
    expect(checkTileSeam(asSubject(fixed)).filter(f => f.evidence.axis === 'x')).toEqual([])
    let changed = 0
    for (let p = 0; p < 256 * 256; p++) if (fixed.data[p * 3] !== image.data[p * 3]) changed++
    expect(changed / (256 * 256)).toBeLessThan(0.27)
    // No mirrored copy: left and right of the old edge are not each other's reflection.
    let mirrored = 0
    for (let y = 0; y < 256; y++) if (fixed.data[(y * 256 + 3) * 3] === fixed.data[(y * 256 + 252) * 3]) mirrored++
    expect(mirrored).toBeLessThan(200)
  })

  it('all maps are cut alike', () => {
    const image = makeWindow(128)
    const rough = { ...image, channels: 1, data: image.data.filter((_, i) => i % 3 === 0) }
    const [color, other] = makeTileable([image, rough], 'y')
    for (let p = 0; p < 128 * 128; p++) expect(other.data[p]).toBe(color.data[p * 3])
    expect(() => makeTileable([image, { ...rough, width: 64 }], 'x')).toThrow(RangeError)
  })

  it('a picture too small to be cut comes back as it is', () => {
    const tiny = { width: 4, height: 4, channels: 1, data: new Uint8Array(16) }
    expect(makeTileable([tiny], 'x')[0].data).toEqual(tiny.data)
  })
})
