import { describe, expect, it } from 'vitest'
import { createSheet } from '#core/geometry/shapes'
import { createMaterial } from '#core/material/open-pbr'
import { IDENTITY } from '#core/math/affine'
import { planTriangles, THIN_TRIANGLES, trianglesOf } from './plan-triangles'

const thing = (side: number, count: number, is: 'chair' | 'tree' | 'planted') => {
  const mesh = createSheet(
    side,
    side,
    (s, t) => [s, t, 0],
    (s, t) => [s, t],
  )
  return {
    parts: [{ name: 'part', mesh, material: createMaterial('m', { geometryThinWalled: is === 'tree' }), images: [] }],
    placements: Array.from({ length: count }, () => IDENTITY),
    of: Array.from({ length: count }, (_, k) => (is === 'planted' ? { planting: 'p', plant: k } : { piece: `${k}` })) as never,
  }
}

describe('what is drawn how', () => {
  const [chair, tree, bush] = [thing(20, 4, 'chair'), thing(200, 2, 'tree'), thing(100, 500, 'planted')]

  it('is everything in full where there is room', () => {
    const { shares, triangles } = planTriangles([chair, tree], 1e6)
    expect([shares.get(chair), shares.get(tree)]).toEqual([
      { full: 4, thin: 0 },
      { full: 2, thin: 0 },
    ])
    expect(triangles).toBe(4 * trianglesOf(chair) + 2 * trianglesOf(tree))
  })

  it('gives up plants before pieces, and thins foliage before it leaves it out; furniture is drawn as it is, and nothing else over the budget', () => {
    for (const budget of [1000, 50_000, 400_000, 700_000, 3_000_000]) {
      const { shares, triangles } = planTriangles([bush, tree, chair], budget)
      expect(triangles).toBeLessThanOrEqual(Math.max(budget, 4 * trianglesOf(chair)))
      for (const [t, { full, thin }] of shares) expect(full + thin).toBeLessThanOrEqual(t.placements.length)
    }
    const { shares } = planTriangles([bush, tree, chair], 50_000)
    expect(shares.get(chair)).toEqual({ full: 4, thin: 0 })
    expect(shares.get(tree)).toEqual({ full: 0, thin: 2 })
    expect(shares.get(bush)).toEqual({ full: 0, thin: Math.floor((50_000 - 3200 - 2 * THIN_TRIANGLES) / THIN_TRIANGLES) })
  })
})
