import { describe, expect, it } from 'vitest'
import { luminance } from '../color/srgb'
import { createClearSky } from './clear-sky'
import { computeHorizontalIrradiance } from './irradiance'
import { findKeyLight } from './key-light'
import { softenKey } from './soften-key'

const sky = createClearSky({ sunAzimuthDeg: 30, sunElevationDeg: 40, turbidity: 2.5 }, 512)
const lux = (map: typeof sky) => luminance(...computeHorizontalIrradiance(map))

describe('a softened key', () => {
  it('lights as much as before from where it stood, over a wider disc', () => {
    const soft = softenKey(sky, 'soft')
    expect(lux(soft) / lux(sky)).toBeCloseTo(1, 1)
    const [before, after] = [findKeyLight(sky)!, findKeyLight(soft)!]
    expect(after.azimuthDeg).toBeCloseTo(before.azimuthDeg, 0)
    expect(after.elevationDeg).toBeCloseTo(before.elevationDeg, 0)
    expect(Math.max(...after.radiance)).toBeLessThan(Math.max(...before.radiance) / 20)
  })

  it('left out leaves the light of the sky alone, with nothing in its place that stands out', () => {
    const without = softenKey(sky, 'none')
    expect(lux(without)).toBeLessThan(lux(sky) * 0.4)
    expect(lux(without)).toBeGreaterThan(lux(sky) * 0.1)
    expect(findKeyLight(without)!.keyToFill).toBeLessThan(1)
  })
})
