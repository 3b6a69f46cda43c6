import type { Mesh } from '../../geometry/mesh'
import { numberOf } from '../../math/number-of'

/** A tree as it was drawn into a memory. */
export interface DrawnTree {
  bytes: Uint8Array
  /** Where it stood, and its root there: children as a node has them. */
  at: number
  root: number
}

/** All trees over one thing; see SimdCaster. */
export interface DrawnTrees {
  all: DrawnTree
  solid: DrawnTree | null
  tinted: DrawnTree | null
  /** Number of its first triangle when they were drawn. */
  first: number
  /** Around it, min xyz and max xyz. */
  box: Float32Array
}

/** What trees over a thing depend on: its parts in their order, and whether rays ask what is cut out of them or pass them. */
export type TreeParts = readonly { mesh: Pick<Mesh, 'positions' | 'indices'>; flags: number }[]

/** The same parts are put together in so many ways at most: with holes, say, and without. */
const MOST_WAYS = 4
/** Words of a node at which its children stand; of a packet, its triangles, and the sizes that say whether there is one. */
const CHILDREN = 24
const TRIANGLES = 40
const SIZES = 36

/**
 * Trees of things, for the next one of the same corners, in the same scene or another: building one takes many times as long as copying it. They
 * go when their meshes go.
 */
export class TreeCache {
  private readonly known = new WeakMap<Float32Array, Map<string, DrawnTrees>>()

  get(parts: TreeParts): DrawnTrees | null {
    return (parts.length > 0 && this.known.get(parts[0].mesh.positions)?.get(keyOf(parts))) || null
  }

  set(parts: TreeParts, trees: DrawnTrees): void {
    if (parts.length === 0) return
    const { positions } = parts[0].mesh
    const ways = this.known.get(positions) ?? new Map<string, DrawnTrees>()
    this.known.set(positions, ways)
    if (ways.size >= MOST_WAYS) ways.delete(ways.keys().next().value!)
    ways.set(keyOf(parts), trees)
  }
}

const keyOf = (parts: TreeParts): string =>
  parts.map(({ mesh, flags }) => `${numberOf(mesh.positions)}/${numberOf(mesh.indices)}/${flags}`).join(' ')

/**
 * The tree as it stands elsewhere, over triangles of other numbers; layout as in src/kernel/traverse.ts.
 * @param to its new address
 * @param triangles by how many the numbers of its triangles are higher
 */
export function moveTree({ bytes, at, root }: DrawnTree, to: number, triangles: number): { bytes: Uint8Array; root: number } {
  const moved = bytes.slice()
  const words = new Uint32Array(moved.buffer)
  const floats = new Float32Array(moved.buffer)
  const by = to - at
  const waiting = moved.length > 0 ? [root] : []
  while (waiting.length > 0) {
    const child = waiting.pop()!
    if (child & 1) {
      const packet = (child - 1 - at) / 4
      for (let k = 0; k < 4; k++) if (!Number.isNaN(floats[packet + SIZES + k])) words[packet + TRIANGLES + k] += triangles
      continue
    }
    const node = (child - at) / 4
    for (let k = 0; k < 4; k++) {
      const below = words[node + CHILDREN + k]
      if (below === 0) continue
      waiting.push(below)
      words[node + CHILDREN + k] = below + by
    }
  }
  return { bytes: moved, root: moved.length > 0 ? root + by : root }
}
