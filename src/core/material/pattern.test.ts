import { describe, expect, it } from 'vitest'
import type { ByteImage } from '../image/image'
import { fourierOfRealSquare } from '../math/fourier'
import { createRandom } from '../math/random'
import { appearanceOfPicture, readAppearance, writeAppearance } from './appearance'
import { measurePattern, OCTAVES } from './pattern'

/** A grey picture whose code at (u, v) in 0..1 is given. */
function paint(at: (u: number, v: number) => number, width = 512, height = 512): ByteImage {
  const data = new Uint8Array(width * height)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) data[y * width + x] = Math.round(at((x + 0.5) / width, (y + 0.5) / height))
  return { width, height, channels: 1, data }
}
const bricks = (across: number, down: number) =>
  paint((u, v) => {
    const row = Math.floor(v * down)
    const inRow = (u * across + (row % 2) / 2) % 1
    return inRow < 0.08 || (v * down) % 1 < 0.12 ? 210 : 90
  })
const stripes = (count: number, angleDeg: number) => {
  const a = (angleDeg * Math.PI) / 180
  // Anticlockwise from the horizontal, rows downwards.
  return paint((u, v) => 128 + 60 * Math.cos(2 * Math.PI * count * (u * Math.sin(a) + v * Math.cos(a))))
}

describe('a Fourier transform of a square of real numbers', () => {
  const side = 8
  const random = createRandom(4)
  const given = Float64Array.from({ length: side * side }, () => random.between(-1, 1))
  const half = side / 2 + 1

  it('agrees with the sum that defines it', () => {
    const { real, imaginary } = fourierOfRealSquare(given, side)
    for (let across = 0; across < side; across++)
      for (let down = 0; down < half; down++) {
        let [re, im] = [0, 0]
        for (const [place, value] of given.entries()) {
          const turn = (-2 * Math.PI * (across * (place % side) + down * Math.floor(place / side))) / side
          re += value * Math.cos(turn)
          im += value * Math.sin(turn)
        }
        expect(real[across * half + down]).toBeCloseTo(re, 12)
        expect(imaginary[across * half + down]).toBeCloseTo(im, 12)
      }
  })

  it('of an even square is real, and comes back', () => {
    const even = given.map((_, p) => {
      const [x, y] = [p % side, Math.floor(p / side)]
      return given[p] + given[((side - y) % side) * side + ((side - x) % side)]
    })
    const once = fourierOfRealSquare(even, side)
    expect([...once.imaginary].map(Math.abs).reduce((a, b) => Math.max(a, b))).toBeLessThan(1e-12)
    const whole = even.map((_, p) => {
      const [x, y] = [p % side, Math.floor(p / side)]
      return y < half ? once.real[x * half + y] : once.real[((side - x) % side) * half + side - y]
    })
    const { real } = fourierOfRealSquare(whole, side)
    for (let x = 0; x < side; x++)
      for (let y = 0; y < half; y++) expect(real[x * half + y] / side ** 2).toBeCloseTo(even[y * side + x], 12)
  })

  it('wants a square of a power of two', () => {
    expect(() => fourierOfRealSquare(new Float64Array(36), 6)).toThrow(RangeError)
    expect(() => fourierOfRealSquare(new Float64Array(32), 8)).toThrow(RangeError)
  })
})

describe('the pattern of a surface', () => {
  it('of stripes has their wavelength in the right octave, their direction and their period', () => {
    for (const [count, octave] of [
      [3, 1],
      [6, 2],
      [12, 3],
      [40, 5],
    ]) {
      const { octaves, coherence, directionDeg, period, periodStrength } = measurePattern(stripes(count, 0))
      expect(octaves.indexOf(Math.max(...octaves))).toBe(octave)
      expect(octaves[octave]).toBeGreaterThan(0.9)
      expect(coherence).toBeGreaterThan(0.95)
      expect(Math.min(directionDeg, 180 - directionDeg)).toBeLessThan(2)
      if (count >= 3) {
        expect(Math.abs(period - 1 / count)).toBeLessThan(0.02)
        expect(periodStrength).toBeGreaterThan(0.8)
      }
    }
    // They do not meet at the edges, which bends the measure a little.
    for (const angle of [30, 120]) expect(Math.abs(measurePattern(stripes(9, angle)).directionDeg - angle)).toBeLessThan(3)
  })

  it('of bricks repeats after a brick; of noise never', () => {
    const { period, periodStrength } = measurePattern(bricks(4, 12))
    // A running bond is back after half a brick and one course, or two courses.
    expect(period).toBeGreaterThan(0.1)
    expect(period).toBeLessThan(0.26)
    expect(periodStrength).toBeGreaterThan(0.6)
    const random = createRandom(1)
    const noise = measurePattern(paint(() => random.between(60, 200)))
    expect(noise).toMatchObject({ period: 0, periodStrength: 0 })
    expect(noise.coherence).toBeLessThan(0.1)
  })

  it('moves by an octave when it is drawn at half the size, and does not change with the resolution', () => {
    const [large, small] = [measurePattern(bricks(2, 6)), measurePattern(bricks(4, 12))]
    const centre = (octaves: readonly number[]) => octaves.reduce((s, e, k) => s + e * k, 0)
    expect(centre(small.octaves) - centre(large.octaves)).toBeGreaterThan(0.6)
    const coarse = paint((_u, v) => 128 + 60 * Math.cos(2 * Math.PI * 5 * v), 1024, 1024)
    expect(measurePattern(coarse).contrast).toBeCloseTo(measurePattern(stripes(5, 0)).contrast, 0)
  })

  it('of a picture that is not square counts real lengths', () => {
    const wide = paint((_u, v) => 128 + 60 * Math.cos(2 * Math.PI * 4 * v), 512, 128)
    // Four waves in a quarter of the width are sixteen in the width.
    const { octaves, period } = measurePattern(wide)
    expect(octaves.indexOf(Math.max(...octaves))).toBe(4)
    expect(Math.abs(period - 1 / 16)).toBeLessThan(0.01)
  })

  it('of one flat colour is none, and one that is dented by a digit neither', () => {
    expect(measurePattern(paint(() => 128))).toMatchObject({ contrast: expect.closeTo(0, 6), coherence: 0, period: 0 })
    expect(measurePattern(paint(() => 128)).octaves).toEqual(new Array(OCTAVES).fill(0))
  })

  it('is written as a fact and read again; what is none is not read', () => {
    const appearance = appearanceOfPicture(bricks(3, 9))
    const read = readAppearance(writeAppearance(appearance))!
    expect(read.period).toBeCloseTo(appearance.period, 3)
    expect(read.octaves).toHaveLength(OCTAVES)
    expect(read.roughness).toBeNull()
    expect(readAppearance('1 2 3')).toBeNull()
    expect(readAppearance(writeAppearance(appearance).replace(/^\S+/, 'x'))).toBeNull()
  })
})
