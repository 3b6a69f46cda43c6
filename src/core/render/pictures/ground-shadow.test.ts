import { describe, expect, it } from 'vitest'
import { type Mesh, placeMesh } from '../../geometry/mesh'
import { createBox } from '../../geometry/shapes'
import { createFloatImage } from '../../image/image'
import { EnvironmentLight } from '../lights/environment-light'
import { createExposedLight, createHouseLightMap } from '../lights/house-light'
import { measureGroundShadow } from './ground-shadow'

const SIZE = 32
const ground = { x: 0, y: 0, z: 0, side: 4 }
const house = createExposedLight(createHouseLightMap(128), 0)

const toSoup = ({ positions, indices }: Mesh): Float32Array =>
  Float32Array.from({ length: indices.length * 3 }, (_, i) => positions[indices[Math.floor(i / 3)] * 3 + (i % 3)])

const boxAt = (height: number) => toSoup(placeMesh(createBox(1, 0.5, 1), [0, height, 0]))
const at = (shares: Float32Array, x: number, z: number) =>
  shares[Math.floor((z / ground.side + 0.5) * SIZE) * SIZE + Math.floor((x / ground.side + 0.5) * SIZE)]

describe('the shadow on the ground', () => {
  it('is black under what stands on it, and gone far from it', () => {
    const shares = measureGroundShadow(boxAt(0), house, ground, SIZE)
    expect(at(shares, 0, 0)).toBeLessThan(0.02)
    expect(at(shares, -1.9, -1.9)).toBeGreaterThan(0.85)
    expect(shares.every(s => s >= 0 && s <= 1)).toBe(true)
  })

  it('grows lighter as the thing is lifted', () => {
    const [low, high] = [0.2, 1.5].map(h => at(measureGroundShadow(boxAt(h), house, ground, SIZE), 0, 0))
    expect(low).toBeGreaterThan(0.005)
    expect(high).toBeGreaterThan(low + 0.15)
  })

  it('falls away from the light', () => {
    const map = createFloatImage(64, 32, 3)
    // A patch of light in the direction +X, which is azimuth 90, halfway up.
    for (let j = 6; j < 10; j++) map.data.fill(50, (j * 64 + 46) * 3, (j * 64 + 50) * 3)
    const shares = measureGroundShadow(boxAt(0), new EnvironmentLight(map, 1), ground, SIZE)
    expect(at(shares, -0.8, 0)).toBeLessThan(0.2)
    expect(at(shares, 0.8, 0)).toBeGreaterThan(0.9)
  })

  it('of nothing is none, and without light there is nothing to keep off', () => {
    const nothing = measureGroundShadow(new Float32Array(0), house, ground, 4)
    expect([...nothing]).toEqual(Array.from({ length: 16 }, () => 1))
    const dark = new EnvironmentLight(createFloatImage(16, 8, 3), 1)
    expect(measureGroundShadow(boxAt(0), dark, ground, 4).every(s => s === 1 || s === 0)).toBe(true)
  })
})
