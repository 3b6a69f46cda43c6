import { describe, expect, it } from 'vitest'
import { luminance } from '../color/srgb'
import { toRadians } from '../math/angles'
import { clearSkyIlluminance, createClearSky } from './clear-sky'
import { computeHorizontalIrradiance } from './irradiance'

describe('a clear sky', () => {
  it.each([10, 35, 62])('lights level ground as the sky and the sun together do, with the sun %i degrees high', elevation => {
    const { skyLx, sunLx } = clearSkyIlluminance(elevation)
    const map = createClearSky({ sunAzimuthDeg: 40, sunElevationDeg: elevation, turbidity: 2.5 }, 512)
    const lx = luminance(...computeHorizontalIrradiance(map))
    expect(lx / (skyLx + sunLx * Math.sin(toRadians(elevation)))).toBeCloseTo(1, 1)
  })

  it('is as bright as the published figures: about 100 klx at noon in summer, of which the sky is a seventh', () => {
    const { skyLx, sunLx } = clearSkyIlluminance(60)
    expect(skyLx + sunLx * Math.sin(toRadians(60))).toBeGreaterThan(95_000)
    expect(skyLx + sunLx * Math.sin(toRadians(60))).toBeLessThan(110_000)
    expect(skyLx).toBeGreaterThan(14_000)
    expect(skyLx).toBeLessThan(16_500)
    expect(clearSkyIlluminance(-7)).toEqual({ skyLx: 0, sunLx: 0 })
  })

  it('has its sun where it is said to stand, blue away from it, and a low sun that is redder than a high one', () => {
    const [width, height] = [512, 256]
    const brightest = (map: ReturnType<typeof createClearSky>) => {
      let best = 0
      for (let p = 1; p < width * height; p++) if (map.data[p * 3 + 1] > map.data[best * 3 + 1]) best = p
      return best
    }
    const high = createClearSky({ sunAzimuthDeg: 90, sunElevationDeg: 45, turbidity: 2.5 }, width)
    const at = brightest(high)
    expect(((at % width) + 0.5) / width).toBeCloseTo(0.75, 2)
    expect((Math.floor(at / width) + 0.5) / height).toBeCloseTo(0.25, 2)
    // Opposite the sun, as high up.
    const [r, , b] = high.data.subarray((64 * width + 128) * 3, (64 * width + 128) * 3 + 3)
    expect(b / r).toBeGreaterThan(1.6)
    const low = createClearSky({ sunAzimuthDeg: 90, sunElevationDeg: 4, turbidity: 2.5 }, width)
    const warmth = (map: typeof low) => {
      const p = brightest(map) * 3
      return map.data[p] / map.data[p + 2]
    }
    expect(warmth(low)).toBeGreaterThan(warmth(high) * 1.5)
    expect(low.data.every(v => v >= 0)).toBe(true)
  })
})
