import { describe, expect, it } from 'vitest'
import { displaceMesh } from './displace'
import { computeBounds, type Mesh } from './mesh'
import { createSheet, createSphere } from './shapes'

const sheet = createSheet(
  2,
  2,
  (s, t) => [s, 0, t],
  (s, t) => [s, t],
)

function longestEdge({ positions, indices }: Mesh): number {
  let most = 0
  for (let i = 0; i < indices.length; i += 3)
    for (const [a, b] of [
      [0, 1],
      [1, 2],
      [2, 0],
    ])
      most = Math.max(
        most,
        Math.hypot(...[0, 1, 2].map(k => positions[indices[i + a] * 3 + k] - positions[indices[i + b] * 3 + k])),
      )
  return most
}

/** Edges that only one triangle has. */
function openEdges({ indices }: Mesh): number {
  const seen = new Map<string, number>()
  for (let i = 0; i < indices.length; i += 3)
    for (const [a, b] of [
      [0, 1],
      [1, 2],
      [2, 0],
    ]) {
      const key = [indices[i + a], indices[i + b]].sort((p, q) => p - q).join()
      seen.set(key, (seen.get(key) ?? 0) + 1)
    }
  return [...seen.values()].filter(n => n === 1).length
}

describe('a mesh moved by heights', () => {
  it('lies where the heights say, in edges as short as asked for', () => {
    const moved = displaceMesh(sheet, (u, v) => 0.1 * u * v, { maxEdge: 0.05, maxTriangles: 1e6 })
    expect(longestEdge(moved)).toBeLessThan(0.05 * 1.1)
    const up = Math.sign(sheet.normals[1])
    for (let v = 0; v < moved.positions.length / 3; v++)
      expect(moved.positions[v * 3 + 1] * up).toBeCloseTo(0.1 * moved.uvs[v * 2] * moved.uvs[v * 2 + 1], 6)
  })

  it('does not come apart: only its rim is open', () => {
    const moved = displaceMesh(sheet, u => 0.01 * Math.sin(40 * u), { maxEdge: 0.07, maxTriangles: 1e6 })
    // Four sides of one metre, each halved until its pieces are short enough: 16 or more, and no others.
    const perSide = openEdges(moved) / 4
    expect(perSide).toBe(16)
  })

  it('has no more triangles than it may, and none that were not numbers before', () => {
    const ball = createSphere(1, [0, 0, 0], 32)
    const most = 20_000
    const moved = displaceMesh(ball, () => 0.01, { maxEdge: 1e-4, maxTriangles: most })
    expect(moved.indices.length / 3).toBeLessThanOrEqual(most)
    expect(moved.indices.length / 3).toBeGreaterThan(most / 10)
    expect(computeBounds(moved.positions).max[1]).toBeCloseTo(1.01, 3)
    const broken = { ...sheet, positions: sheet.positions.map((v, i) => (i === 0 ? Number.NaN : i === 4 ? 1e30 : v)) }
    expect(displaceMesh(broken, () => 0, { maxEdge: 0.1, maxTriangles: 1000 }).indices.length).toBeGreaterThan(0)
  })
})
