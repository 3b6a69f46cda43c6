import { describe, expect, it } from 'vitest'
import { createFloatImage } from '../image/image'
import { blurMap } from './blur-map'

describe('a blurred sky', () => {
  it('of one colour stays what it is, poles and seam alike', () => {
    const map = createFloatImage(64, 32, 3)
    map.data.fill(0.7)
    for (const v of blurMap(map, 8).data) expect(v).toBeCloseTo(0.7, 5)
  })

  it('spreads a light about as far as it is told, over the seam and over the pole', () => {
    const map = createFloatImage(256, 128, 3)
    map.data.fill(0.01)
    for (let c = 0; c < 3; c++) map.data[(64 * 256 + 0) * 3 + c] = 1
    const blurred = blurMap(map, 6)
    const at = (x: number, y: number) => blurred.data[(y * 256 + ((x + 256) % 256)) * 3]
    expect(at(-3, 64)).toBeCloseTo(at(3, 64), 6)
    expect(at(0, 64)).toBeGreaterThan(at(4, 64))
    // Six degrees are 4.3 columns and rows: there a Gaussian is down to 0.61 of its middle.
    const share = (at(0, 68) - 0.01) / (at(0, 64) - 0.01)
    expect(share).toBeGreaterThan(0.55)
    expect(share).toBeLessThan(0.75)
    const top = createFloatImage(256, 128, 3)
    top.data.fill(0.01)
    for (let c = 0; c < 3; c++) top.data[10 * 3 + c] = 1
    expect(blurMap(top, 6).data[138 * 3]).toBeGreaterThan(0.01005)
  })

  it('holds a sun, so that it is a light place and not all of the sky', () => {
    const map = createFloatImage(256, 128, 3)
    map.data.fill(0.5)
    map.data.fill(50_000, (40 * 256 + 30) * 3, (40 * 256 + 31) * 3)
    const blurred = blurMap(map, 6)
    const far = blurred.data[(90 * 256 + 200) * 3]
    expect(far).toBeCloseTo(0.5, 3)
    expect(Math.max(...blurred.data)).toBeLessThan(5)
    expect(blurMap(createFloatImage(8, 4, 3), 6).data.every(v => v === 0)).toBe(true)
  })
})
