import { describe, expect, it } from 'vitest'
import { createRandom } from '../math/random'
import { Bvh, type RayHit } from './bvh'

const newHit = (): RayHit => ({ distance: 0, triangle: -1, u: 0, v: 0 })

function randomTriangles(count: number, seed: number): Float32Array {
  const random = createRandom(seed)
  const out = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    const centre = [random.between(-5, 5), random.between(-5, 5), random.between(-5, 5)]
    for (let k = 0; k < 9; k++) out[t * 9 + k] = centre[k % 3] + random.between(-0.6, 0.6)
  }
  return out
}

/** Every triangle, in doubles: the slow reference. */
function bruteForce(p: Float32Array, o: number[], d: number[]): { triangle: number; distance: number } {
  let best = { triangle: -1, distance: Number.POSITIVE_INFINITY }
  for (let t = 0; t < p.length / 9; t++) {
    const a = p.subarray(t * 9, t * 9 + 3)
    const e1 = [0, 1, 2].map(c => p[t * 9 + 3 + c] - a[c])
    const e2 = [0, 1, 2].map(c => p[t * 9 + 6 + c] - a[c])
    const cross = (x: number[], y: number[]) => [x[1] * y[2] - x[2] * y[1], x[2] * y[0] - x[0] * y[2], x[0] * y[1] - x[1] * y[0]]
    const dot = (x: number[], y: number[]) => x[0] * y[0] + x[1] * y[1] + x[2] * y[2]
    const h = cross(d, e2)
    const det = dot(e1, h)
    if (det === 0) continue
    const s = [0, 1, 2].map(c => o[c] - a[c])
    const u = dot(s, h) / det
    const q = cross(s, e1)
    const v = dot(d, q) / det
    const distance = dot(e2, q) / det
    if (u < 0 || v < 0 || u + v > 1 || distance <= 0 || distance >= best.distance) continue
    best = { triangle: t, distance }
  }
  return best
}

describe('Bvh against every triangle in turn', () => {
  for (const seed of [1, 2, 3])
    it(`finds the same nearest hit, seed ${seed}`, () => {
      const triangles = randomTriangles(800, seed)
      const bvh = Bvh.build(triangles)
      const random = createRandom(seed + 100)
      const hit = newHit()
      let hits = 0
      for (let k = 0; k < 600; k++) {
        const o = [random.between(-8, 8), random.between(-8, 8), random.between(-8, 8)]
        const d = [random.between(-1, 1), random.between(-1, 1), random.between(-1, 1)]
        const expected = bruteForce(triangles, o, d)
        const found = bvh.closestHit(o[0], o[1], o[2], d[0], d[1], d[2], 1e30, hit)
        expect(found).toBe(expected.triangle >= 0)
        expect(bvh.isOccluded(o[0], o[1], o[2], d[0], d[1], d[2], 1e30)).toBe(found)
        if (!found) continue
        hits++
        expect(hit.triangle).toBe(expected.triangle)
        expect(hit.distance).toBeCloseTo(expected.distance, 4)
      }
      expect(hits).toBeGreaterThan(50)
    })

  it('answers along the axes, where a direction has zeros', () => {
    const bvh = Bvh.build(new Float32Array([-1, -1, 3, 1, -1, 3, 0, 1, 3]))
    const hit = newHit()
    expect(bvh.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
    expect(hit.distance).toBeCloseTo(3)
    expect(bvh.closestHit(0, 0, 0, 0, 0, -1, 1e30, hit)).toBe(false)
    expect(bvh.isOccluded(0, 0, 0, 0, 0, 1, 2.9)).toBe(false)
  })

  it('passes through holes, and lets light by what is clear', () => {
    const two = new Float32Array([-1, -1, 1, 1, -1, 1, 0, 1, 1, -1, -1, 2, 1, -1, 2, 0, 1, 2])
    const hit = newHit()
    const withHole = Bvh.build(two, new Uint8Array([1, 0]), () => false)
    expect(withHole.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
    expect(hit.triangle).toBe(1)
    const clear = Bvh.build(two, null, null, new Uint8Array([1, 1]))
    expect(clear.isOccluded(0, 0, 0, 0, 0, 1, 1e30)).toBe(false)
    expect(clear.closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
    expect(hit.triangle).toBe(0)
  })

  it('takes nothing at all, a thousand triangles in one place, and degenerate ones', () => {
    const hit = newHit()
    expect(Bvh.build(new Float32Array()).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(false)
    const same = new Float32Array(9000)
    for (let t = 0; t < 1000; t++) same.set([-1, -1, 1, 1, -1, 1, 0, 1, 1], t * 9)
    expect(Bvh.build(same).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(true)
    expect(Bvh.build(new Float32Array(90)).closestHit(0, 0, 0, 0, 0, 1, 1e30, hit)).toBe(false)
    expect(() => Bvh.build(new Float32Array(8))).toThrow(RangeError)
  })
})
