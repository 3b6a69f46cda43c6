import { describe, expect, it } from 'vitest'
import { columnAzimuth, directionOf, rowElevation } from '#core/environment/sphere'
import { createFloatImage } from '#core/image/image'
import { exposureGain, toEquirectangularPixels } from './environment-texture'

/** Where three's shader looks for a direction (its equirectUv), as a pixel. */
function threePixel(d: readonly number[], width: number, height: number): [number, number] {
  const u = Math.atan2(d[2], d[0]) / (2 * Math.PI) + 0.5
  const v = Math.asin(Math.max(-1, Math.min(1, d[1]))) / Math.PI + 0.5
  return [Math.floor(u * width) % width, Math.min(height - 1, Math.floor(v * height))]
}

describe('equirectangular pixels for the live view', () => {
  it('puts every direction where the live view looks for it', () => {
    const map = createFloatImage(32, 16, 3)
    for (let p = 0; p < 32 * 16; p++) map.data[p * 3] = p
    const pixels = toEquirectangularPixels(map)
    for (const [i, j] of [
      [0, 0],
      [5, 3],
      [16, 8],
      [31, 15],
      [20, 11],
    ]) {
      const [x, y] = threePixel(directionOf(columnAzimuth(i, 32), rowElevation(j, 16)), 32, 16)
      expect(pixels[(y * 32 + x) * 4]).toBe(j * 32 + i)
    }
  })

  it('are as many as asked for, with every direction where it was', () => {
    const map = createFloatImage(32, 16, 3)
    for (let p = 0; p < 32 * 16; p++) map.data[p * 3] = p
    for (const width of [16, 64, 80]) {
      const pixels = toEquirectangularPixels(map, width)
      expect(pixels).toHaveLength((width * width * 4) / 2)
      for (const [i, j] of [
        [2, 3],
        [16, 8],
        [30, 14],
      ]) {
        const [x, y] = threePixel(directionOf(columnAzimuth(i, 32), rowElevation(j, 16)), width, width / 2)
        const found = pixels[(y * width + x) * 4]
        // Nearest: of a smaller picture one beside it may stand for it.
        expect(Math.abs((found % 32) - i)).toBeLessThanOrEqual(width < 32 ? 1 : 0)
        expect(Math.abs(Math.floor(found / 32) - j)).toBeLessThanOrEqual(width < 32 ? 1 : 0)
      }
    }
  })

  it('exposes as the renderer does: a white card under a uniform sky reads 1', () => {
    const map = createFloatImage(64, 32, 3)
    map.data.fill(0.25)
    expect(exposureGain(map, 0) * 0.25).toBeCloseTo(1, 2)
    expect(exposureGain(map, 1) / exposureGain(map, 0)).toBeCloseTo(2, 6)
  })
})
