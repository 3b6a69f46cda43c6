import { describe, expect, it } from 'vitest'
import { placeMesh } from '../../geometry/mesh'
import { createBox } from '../../geometry/shapes'
import type { FloatImage } from '../../image/image'
import { createMaterial } from '../../material/open-pbr'
import { HOUSE_RIGS } from '../rigs/house-rigs'
import { renderTurntable } from './turntable'

const colored = (name: string, baseColor: [number, number, number], x: number) => ({
  mesh: placeMesh(createBox(0.3, 0.4, 0.3), [x + 5, 0, 2]),
  material: createMaterial(name, { baseColor, specularWeight: 0 }),
  images: [],
})

/** Mean horizontal place of what is much redder than green, 0..1. */
function placeOfRed({ width, height, data }: FloatImage): { x: number; share: number } {
  let sum = 0
  let count = 0
  for (let p = 0; p < width * height; p++)
    if (data[p * 3] > data[p * 3 + 1] * 2.5) {
      sum += (p % width) / width
      count++
    }
  return { x: count > 0 ? sum / count : 0.5, share: count / (width * height) }
}

describe('a turntable', () => {
  it('turns once round: a red and a blue box change sides and come back', () => {
    const objects = [colored('red', [0.6, 0.03, 0.03], -0.3), colored('blue', [0.03, 0.03, 0.6], 0.3)]
    const house = HOUSE_RIGS['model-three-quarter']
    const rig = {
      ...house,
      draft: { ...house.draft, width: 128 },
      camera: { ...HOUSE_RIGS['model-three-quarter'].camera, azimuthDeg: 0 },
    }
    const shares: number[] = []
    const frames = renderTurntable({ kind: 'model', objects }, rig, 0.5, s => shares.push(s) > 0, 4)!
    expect(frames).toHaveLength(4)
    const x = frames.map(f => placeOfRed(f).x)
    expect(x[0]).toBeLessThan(0.42)
    expect(x[2]).toBeGreaterThan(0.58)
    expect(Math.abs(x[0] + x[2] - 1)).toBeLessThan(0.06)
    for (const f of frames) {
      expect(f.width / f.height).toBeCloseTo(4 / 3)
      expect(f.data.every(Number.isFinite)).toBe(true)
    }
    // Never cut: at every angle some of the red is in the frame, or hidden behind the blue.
    expect(frames.filter(f => placeOfRed(f).share > 0.005).length).toBeGreaterThanOrEqual(3)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect(renderTurntable({ kind: 'model', objects }, rig, 0.5, () => false, 4)).toBeNull()
  })
})
