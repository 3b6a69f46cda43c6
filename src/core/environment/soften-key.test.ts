import { describe, expect, it } from 'vitest'
import { luminance } from '../color/srgb'
import { createFloatImage } from '../image/image'
import { toDegrees } from '../math/angles'
import { createClearSky } from './clear-sky'
import { computeHorizontalIrradiance } from './irradiance'
import { findKeyLight } from './key-light'
import { softenKey, splitKey } from './soften-key'

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

describe('a key apart from the rest', () => {
  it('lights a level card as the whole does, from where the sun stands', () => {
    const { rest, direction, irradiance, angularDiameterDeg } = splitKey(sky)!
    const together = lux(rest) + luminance(...irradiance) * direction[1]
    expect(together / lux(sky)).toBeCloseTo(1, 2)
    expect(toDegrees(Math.asin(direction[1]))).toBeCloseTo(40, 0)
    expect(angularDiameterDeg).toBeLessThan(3)
    expect(luminance(...irradiance)).toBeGreaterThan(lux(sky) * 0.5)
  })

  it('is none where the key is wide, as a sun behind cloud, or where there is no light', () => {
    expect(splitKey(softenKey(sky, 'soft'))).toBeNull()
    expect(splitKey(createFloatImage(64, 32, 3))).toBeNull()
    const below = createFloatImage(256, 128, 3)
    below.data.fill(0.1)
    for (let c = 0; c < 3; c++) below.data[(100 * 256 + 40) * 3 + c] = 500
    expect(splitKey(below)).toBeNull()
  })
})
