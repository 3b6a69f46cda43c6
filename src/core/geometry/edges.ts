import { TripleTable } from '../math/triple-table'
import { computeBounds, type Mesh } from './mesh'

/** How the triangles of a mesh hang together, with vertices in one place taken as one. */
export interface EdgeCounts {
  /** Edges of one triangle only. */
  open: number
  /** Edges of three triangles or more. */
  nonManifold: number
  /** Edges that both their triangles run along in the same direction: one of them faces the other way. */
  contrary: number
  /** Triangles that another one repeats, corner for corner. */
  duplicates: number
  edges: number
  /** Six times the enclosed volume is positive where a closed mesh faces outwards; in cubic metres. */
  signedVolume: number
}

/** Two vertices nearer than this share of the extent are one. */
const SAME = 1e-6
const BACK = 65536

export function countEdges({ positions, indices }: Mesh): EdgeCounts {
  const { min, max } = computeBounds(positions)
  const grid = Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2], 1e-9) * SAME
  const places = new TripleTable(positions.length / 3)
  const idOf = Uint32Array.from({ length: positions.length / 3 }, (_, v) =>
    places.idOf(
      Math.round((positions[v * 3] - min[0]) / grid),
      Math.round((positions[v * 3 + 1] - min[1]) / grid),
      Math.round((positions[v * 3 + 2] - min[2]) / grid),
    ),
  )
  const count = places.size
  // An edge is known by its two ends; how often it was run along one way, and the other way in steps of BACK.
  const runs = new Map<number, number>()
  const triangles = new TripleTable(indices.length / 3)
  let duplicates = 0
  let signedVolume = 0
  for (let i = 0; i + 2 < indices.length; i += 3) {
    const [a, b, c] = [idOf[indices[i]], idOf[indices[i + 1]], idOf[indices[i + 2]]]
    if (a === b || b === c || c === a) continue
    const known = triangles.size
    const [low, high] = [Math.min(a, b, c), Math.max(a, b, c)]
    if (triangles.idOf(low, a + b + c - low - high, high) < known) {
      duplicates++
      continue
    }
    for (const [from, to] of [
      [a, b],
      [b, c],
      [c, a],
    ]) {
      const edge = Math.min(from, to) * count + Math.max(from, to)
      runs.set(edge, (runs.get(edge) ?? 0) + (from < to ? 1 : BACK))
    }
    const [p, q, r] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    signedVolume +=
      (positions[p] * (positions[q + 1] * positions[r + 2] - positions[q + 2] * positions[r + 1]) -
        positions[p + 1] * (positions[q] * positions[r + 2] - positions[q + 2] * positions[r]) +
        positions[p + 2] * (positions[q] * positions[r + 1] - positions[q + 1] * positions[r])) /
      6
  }
  let open = 0
  let nonManifold = 0
  let contrary = 0
  for (const run of runs.values()) {
    const [forth, back] = [run % BACK, Math.floor(run / BACK)]
    if (forth + back === 1) open++
    else if (forth + back > 2) nonManifold++
    else if (forth !== back) contrary++
  }
  return { open, nonManifold, contrary, duplicates, edges: runs.size, signedVolume }
}
