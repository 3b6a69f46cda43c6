import { describe, expect, it } from 'vitest'
import type { Image } from '../image/image'
import { estimateRelief, LEAST_RELIEF_CORRELATION, measureRelief } from './estimate-relief'

const SIZE = 256
const TILE_M = [0.6, 0.6] as const

/** A waved surface that repeats: its heights from 0 to 1, and its normals at so many metres from black to white. */
function makeWaves(reliefM: number, green: 1 | -1): { height: Image; normal: Image } {
  const wave = (u: number, v: number) =>
    0.5 + 0.3 * Math.sin(6 * Math.PI * u) * Math.cos(4 * Math.PI * v) + 0.2 * Math.sin(10 * Math.PI * v)
  const height = new Uint16Array(SIZE * SIZE)
  const normal = new Uint8Array(SIZE * SIZE * 3)
  const step = 1e-4
  for (let y = 0; y < SIZE; y++)
    for (let x = 0; x < SIZE; x++) {
      const [u, v] = [(x + 0.5) / SIZE, (y + 0.5) / SIZE]
      height[y * SIZE + x] = wave(u, v) * 65535
      const dx = ((wave(u + step, v) - wave(u - step, v)) / (2 * step) / TILE_M[0]) * reliefM
      const dy = ((wave(u, v - step) - wave(u, v + step)) / (2 * step) / TILE_M[1]) * reliefM
      const length = Math.hypot(dx, dy, 1)
      for (const [c, n] of [-dx, -dy * green, 1].entries())
        normal[(y * SIZE + x) * 3 + c] = Math.round((n / length / 2 + 0.5) * 255)
    }
  return {
    height: { width: SIZE, height: SIZE, channels: 1, data: height },
    normal: { width: SIZE, height: SIZE, channels: 3, data: normal },
  }
}

describe('the relief of a height map', () => {
  it('is what its normal map slopes by, within a few per cent, whichever way green points', () => {
    for (const reliefM of [0.002, 0.006, 0.02]) {
      const up = makeWaves(reliefM, 1)
      const found = estimateRelief(up.height, up.normal, 'openGl', TILE_M)!
      expect(found.reliefM / reliefM).toBeCloseTo(1, 1)
      expect(found.correlation).toBeGreaterThan(0.98)
      const down = makeWaves(reliefM, -1)
      expect(estimateRelief(down.height, down.normal, 'directX', TILE_M)!.reliefM).toBeCloseTo(found.reliefM, 4)
    }
  })

  it('is not believed of maps of two surfaces, and there is none of a flat one', () => {
    const { height } = makeWaves(0.01, 1)
    const other = makeWaves(0.01, 1).normal
    const turned = {
      ...other,
      data: Uint8Array.from(other.data, (_, i) => other.data[(i + SIZE * 3 * 61 + 201) % other.data.length]),
    }
    expect(Math.abs(estimateRelief(height, turned, 'openGl', TILE_M)!.correlation)).toBeLessThan(LEAST_RELIEF_CORRELATION)
    expect(measureRelief(height, turned, 'openGl', TILE_M)).toBeNull()
    const flat = { ...height, data: new Uint16Array(SIZE * SIZE) }
    expect(estimateRelief(flat, other, 'openGl', TILE_M)).toBeNull()
    expect(() => estimateRelief(height, { ...other, width: 128 }, 'openGl', TILE_M)).toThrow(RangeError)
  })
})
