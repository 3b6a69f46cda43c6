import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import { computeBounds, type Mesh, mergeMeshes, placeMesh } from './mesh'
import { createSheet } from './shapes'
import { thinOut } from './thin-out'

const leaf = createSheet(
  1,
  1,
  (s, t) => [s * 0.05, 0, t * 0.05],
  (s, t) => [s, t],
)
function crown(leaves: number): Mesh {
  const random = createRandom(3)
  return mergeMeshes(
    Array.from({ length: leaves }, () =>
      placeMesh(leaf, [random.between(-1, 1), random.between(0, 2), random.between(-1, 1)], random.between(0, 6)),
    ),
  )
}
function areaM2({ positions: p, indices }: Mesh): number {
  let area = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map(k => indices[i + k] * 3)
    const [x1, y1, z1] = [0, 1, 2].map(k => p[b + k] - p[a + k])
    const [x2, y2, z2] = [0, 1, 2].map(k => p[c + k] - p[a + k])
    area += Math.hypot(y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2) / 2
  }
  return area
}

describe('foliage thinned out', () => {
  const whole = crown(4000)

  it('has as many triangles as asked, covers as much, and is as large', () => {
    const thin = thinOut(whole, 1000)
    expect(thin.indices.length / 3).toBe(1000)
    expect(areaM2(thin) / areaM2(whole)).toBeCloseTo(1, 2)
    const [a, b] = [computeBounds(whole.positions), computeBounds(thin.positions)]
    for (let k = 0; k < 3; k++) {
      expect(Math.abs(a.min[k] - b.min[k])).toBeLessThan(0.12)
      expect(Math.abs(a.max[k] - b.max[k])).toBeLessThan(0.12)
    }
  })

  it('is the same every time, leaves alone what is thin enough, and does not blow leaves up beyond recognition', () => {
    expect(thinOut(whole, 500)).toEqual(thinOut(whole, 500))
    expect(thinOut(leaf, 100)).toBe(leaf)
    const one = thinOut(whole, 2)
    expect(Math.sqrt(areaM2(one) / areaM2(leaf))).toBeLessThan(3.6)
    expect(() => thinOut(whole, 0)).toThrow(RangeError)
  })
})
