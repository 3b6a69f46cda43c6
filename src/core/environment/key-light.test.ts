import { describe, expect, it } from 'vitest'
import { makeSunSky } from '../../../tests/fixtures'
import { createFloatImage } from '../image/image'
import { toDegrees, toRadians } from '../math/angles'
import { dot } from '../math/vec3'
import { computeIrradiance, computeMeanRadiance } from './irradiance'
import { findKeyLight } from './key-light'
import { azimuthOf, columnAzimuth, directionOf, rowElevation, rowSolidAngle } from './sphere'

describe('the sphere', () => {
  it('solid angles of all pixels make 4 pi', () => {
    for (const [w, h] of [
      [64, 32],
      [7, 3],
      [1000, 500],
    ]) {
      let sum = 0
      for (let j = 0; j < h; j++) sum += rowSolidAngle(j, w, h) * w
      expect(sum).toBeCloseTo(4 * Math.PI, 8)
    }
  })

  it('azimuth 0 is the middle of the picture and looks along −Z; positive turns to the right, towards +X', () => {
    expect(columnAzimuth(31.5, 64)).toBeCloseTo(0)
    expect(directionOf(0, 0).map(v => Math.round(v * 1e9) / 1e9 + 0)).toEqual([0, 0, -1])
    expect(directionOf(Math.PI / 2, 0)[0]).toBeCloseTo(1)
    expect(directionOf(0, Math.PI / 2)[1]).toBeCloseTo(1)
    for (const degrees of [-170, -30, 0, 45, 179])
      expect(
        toDegrees(
          azimuthOf(...([directionOf(toRadians(degrees), 0.3)[0], directionOf(toRadians(degrees), 0.3)[2]] as [number, number])),
        ),
      ).toBeCloseTo(degrees)
    expect(rowElevation(0, 2)).toBeCloseTo(Math.PI / 4)
  })
})

describe('irradiance', () => {
  it('a bright upper half lights a card by the cosine of its tilt', () => {
    const map = createFloatImage(256, 128, 3)
    for (let j = 0; j < 64; j++) map.data.fill(1, j * 256 * 3, (j + 1) * 256 * 3)
    expect(computeIrradiance(map, [0, 1, 0])[1]).toBeCloseTo(Math.PI, 2)
    expect(computeIrradiance(map, [1, 0, 0])[1]).toBeCloseTo(Math.PI / 2, 2)
    expect(computeIrradiance(map, [0, -1, 0])[1]).toBeCloseTo(0, 2)
    expect(computeMeanRadiance(map, 0, Math.PI / 2)[0]).toBeCloseTo(1)
    expect(computeMeanRadiance(map, -Math.PI / 2, 0)[0]).toBe(0)
    expect(computeMeanRadiance(map, 3, 4)).toEqual([0, 0, 0])
  })

  it('leaves out what is masked', () => {
    const map = createFloatImage(32, 16, 3)
    map.data.fill(2)
    expect(computeIrradiance(map, [0, 1, 0], new Uint8Array(32 * 16).fill(1))).toEqual([0, 0, 0])
  })
})

describe('the key light', () => {
  it('of a sun is its disc: direction, size and share', () => {
    const key = findKeyLight(makeSunSky(70, 25, 1024))!
    expect(key.azimuthDeg).toBeCloseTo(70, 0)
    expect(key.elevationDeg).toBeCloseTo(25, 0)
    expect(key.angularDiameterDeg).toBeGreaterThan(1.3)
    expect(key.angularDiameterDeg).toBeLessThan(1.9)
    expect(dot(key.direction, directionOf(toRadians(70), toRadians(25)))).toBeGreaterThan(0.9999)
    expect(key.horizontalShare).toBeGreaterThan(0.3)
    expect(key.rivals).toBe(0)
    expect(key.plateauShare).toBeGreaterThan(0.9)
  })

  it('joins across the left and right edges', () => {
    const key = findKeyLight(makeSunSky(180, 30, 512))!
    expect(Math.abs(key.azimuthDeg)).toBeCloseTo(180, 0)
    expect(key.rivals).toBe(0)
  })

  it('of two like lamps is one, and the other is its rival', () => {
    const map = createFloatImage(256, 128, 3)
    map.data.fill(0.05)
    for (const [x, value] of [
      [60, 100],
      [190, 80],
    ])
      for (let j = 40; j < 46; j++) map.data.fill(value, (j * 256 + x) * 3, (j * 256 + x + 6) * 3)
    const key = findKeyLight(map)!
    expect(key.rivals).toBe(1)
    expect(key.radiance[0]).toBeCloseTo(100, 3)
    expect(key.azimuthDeg).toBeLessThan(0)
  })

  it('of nothing at all is none', () => {
    expect(findKeyLight(createFloatImage(16, 8, 3))).toBeNull()
  })
})
