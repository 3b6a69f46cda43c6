import { describe, expect, it } from 'vitest'
import { createRandom } from '../../math/random'
import { Heap } from './heap'
import { findNeighbours, type Place } from './neighbours'

describe('neighbours', () => {
  const random = createRandom(11)
  const places: Place[] = Array.from({ length: 600 }, () => ({
    x: random.between(-3, 9),
    z: random.between(20, 26),
    thickness: random.between(0.1, 1),
  }))

  it.each([0.2, 1, 40])('are those within %d m as they are seen, of all pairs', reachM => {
    const near = findNeighbours(places, reachM)
    places.forEach((p, i) => {
      const expected = places.flatMap((q, of) => {
        const apartM = Math.hypot(p.x - q.x, p.z - q.z)
        const seenM = apartM * Math.sqrt((p.thickness + q.thickness) / 2)
        return of !== i && seenM < reachM ? [{ of, apartM, seenM }] : []
      })
      const from = near.starts[i]
      const order = Array.from({ length: near.starts[i + 1] - from }, (_, k) => from + k).sort((a, b) => near.of[a] - near.of[b])
      expect(order.map(k => near.of[k])).toEqual(expected.map(e => e.of))
      const off = order.map((k, n) =>
        Math.max(Math.abs(near.apartM[k] - expected[n].apartM), Math.abs(near.seenM[k] - expected[n].seenM)),
      )
      expect(Math.max(0, ...off)).toBeLessThan(1e-12)
    })
  })

  it('are found where all stand on one spot, in a line, or far from the rest; of none there are none', () => {
    const spot = { x: 2, z: 2, thickness: 1 }
    expect([...findNeighbours([spot, spot, spot], 1).starts]).toEqual([0, 2, 4, 6])
    const line = Array.from({ length: 50 }, (_, i) => ({ x: i * 1e4, z: 0, thickness: 1 }))
    expect(findNeighbours(line, 1.5e4).of).toHaveLength(98)
    expect(findNeighbours([...places, { x: 1e7, z: -1e7, thickness: 1 }], 0.2).of).toHaveLength(
      findNeighbours(places, 0.2).of.length,
    )
    expect([...findNeighbours([], 1).starts]).toEqual([0])
  })
})

describe('a heap', () => {
  it('gives the heaviest that is left, the first of those that weigh the same', () => {
    const random = createRandom(5)
    const weights = Float64Array.from({ length: 500 }, () => random.index(40))
    const heap = new Heap(weights)
    const left = new Set(weights.keys())
    while (left.size > 0) {
      const heaviest = [...left].reduce((best, i) =>
        weights[i] > weights[best] || (weights[i] === weights[best] && i < best) ? i : best,
      )
      expect(heap.pop()).toBe(heaviest)
      left.delete(heaviest)
      for (const i of [...left].filter(() => random.next() < 0.02)) {
        weights[i] -= random.index(10)
        heap.sink(i)
      }
    }
  })
})
