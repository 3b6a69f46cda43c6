import type { Mesh } from './mesh'

/** Corners nearer than this are one: seams of texture coordinates are no edges. */
const SAME_M = 1e-5

/**
 * Length of the edges that only one triangle has, in metres: where a surface ends. Corners that lie on each other count as one.
 * @param at where a corner comes to lie
 */
export function boundaryLengthM({ positions, indices }: Mesh, at: (corner: number) => readonly [number, number, number]): number {
  const ids = new Map<string, number>()
  const idOf = Array.from({ length: positions.length / 3 }, (_, v) => {
    const key = [0, 1, 2].map(k => Math.round(positions[v * 3 + k] / SAME_M)).join()
    const known = ids.get(key) ?? v
    ids.set(key, known)
    return known
  })
  const edges = new Map<number, { count: number; from: number; to: number }>()
  const corners = positions.length / 3
  for (let i = 0; i < indices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const [from, to] = [idOf[indices[i + k]], idOf[indices[i + ((k + 1) % 3)]]]
      if (from === to) continue
      const key = Math.min(from, to) * corners + Math.max(from, to)
      const edge = edges.get(key)
      if (edge) edge.count++
      else edges.set(key, { count: 1, from, to })
    }
  let length = 0
  for (const { count, from, to } of edges.values()) {
    if (count !== 1) continue
    const [a, b] = [at(from), at(to)]
    length += Math.hypot(b[0] - a[0], b[1] - a[1], b[2] - a[2])
  }
  return length
}
