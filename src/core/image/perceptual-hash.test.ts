import { describe, expect, it } from 'vitest'
import { makeSunSky, makeSurfaceMaps } from '../../../tests/fixtures'
import { createRandom } from '../math/random'
import type { ByteImage } from './image'
import { computePerceptualHash, countDifferentBits } from './perceptual-hash'
import { reduceFloat } from './reduce'

const color = makeSurfaceMaps(128).find(m => m.role === 'basecolor')! as unknown as ByteImage
const distance = (a: Parameters<typeof computePerceptualHash>[0], b: Parameters<typeof computePerceptualHash>[0]) =>
  countDifferentBits(computePerceptualHash(a), computePerceptualHash(b))

describe('a perceptual hash', () => {
  it('is 64 bits, the same for the same pixels', () => {
    expect(computePerceptualHash(color)).toMatch(/^[0-9a-f]{16}$/)
    expect(distance(color, color)).toBe(0)
    expect(countDifferentBits('0000000000000000', 'ffffffffffffffff')).toBe(64)
  })

  it('changes little with size, noise and exposure, and much with the picture', () => {
    const random = createRandom(3)
    const noisy = { ...color, data: color.data.map(v => Math.min(255, Math.max(0, v + random.index(9) - 4))) }
    const darker = { ...color, data: color.data.map(v => v * 0.9) }
    expect(distance(color, noisy)).toBeLessThan(8)
    expect(distance(color, darker)).toBeLessThan(8)
    const rolled = { ...color, data: color.data.map((_, i) => color.data[(i + 3 * 128 * 37 + 3 * 50) % color.data.length]) }
    expect(distance(color, rolled)).toBeGreaterThan(12)
    const noise = { ...color, data: color.data.map(() => random.index(256)) }
    expect(distance(color, noise)).toBeGreaterThan(16)
  })

  it('tells skies apart, whatever their size', () => {
    const sky = makeSunSky(40, 35, 256)
    expect(distance(sky, reduceFloat(sky, 128, 64))).toBeLessThan(6)
    expect(distance(sky, makeSunSky(-100, 10, 256))).toBeGreaterThan(6)
  })
})
