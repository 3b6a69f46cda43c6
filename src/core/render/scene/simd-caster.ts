import { KERNEL_END, KernelMemory } from '../kernel/kernel-memory'
import { buildBvh } from './build-bvh'
import type { AcceptHit, RayCaster, RayHit } from './ray-caster'

/**
 * Traversal by the WebAssembly kernel in src/kernel, of which traverse.ts draws the memory layout packed here.
 * One instance, with its own memory, for each scene.
 */

const NODE_BYTES = 128
const PACKET_BYTES = 176
const PACKET_LANES = 4
const MASKED = 0x80000000
const CLEAR = 0x40000000
/** A packet of up to four triangles costs about as much as two nodes of four boxes. */
const PACKET_COST = 2

export class SimdCaster implements RayCaster {
  /** Distance, u, v of the last hit. */
  private result: Float64Array

  private constructor(readonly memory: KernelMemory) {
    this.result = new Float64Array(memory.buffer, 0, 3)
  }

  get bytes(): number {
    return this.memory.bytes
  }

  /** Parameters as of `Bvh.build`. Triangles: fewer than 2^30. */
  static build(
    positions: Float32Array,
    masked: Uint8Array | null = null,
    accept: AcceptHit | null = null,
    clear: Uint8Array | null = null,
  ): SimdCaster {
    const tree = widen(buildTree(positions))
    const bytes = KERNEL_END + tree.nodes.length * NODE_BYTES + tree.leaves.length * PACKET_BYTES
    const flags = (triangle: number) => (accept && masked?.[triangle] === 1 ? MASKED : 0) + (clear?.[triangle] === 1 ? CLEAR : 0)
    const memory = KernelMemory.open(bytes, (triangle, u, v) => (accept!(triangle, u, v) ? 1 : 0))
    memory.kernel.setRoot(pack(memory.buffer, tree, positions, flags))
    return new SimdCaster(memory)
  }

  closestHit(
    ox: number,
    oy: number,
    oz: number,
    dx: number,
    dy: number,
    dz: number,
    far: number,
    hit: RayHit,
    throughClear = false,
  ): boolean {
    const triangle = this.memory.kernel.closestHit(ox, oy, oz, dx, dy, dz, far, throughClear ? CLEAR : 0)
    hit.triangle = triangle
    if (triangle < 0) {
      hit.distance = far
      return false
    }
    if (this.result.buffer !== this.memory.buffer) this.result = new Float64Array(this.memory.buffer, 0, 3)
    const { result } = this
    hit.distance = result[0]
    hit.u = result[1]
    hit.v = result[2]
    return true
  }

  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean {
    return this.memory.kernel.isOccluded(ox, oy, oz, dx, dy, dz, far) !== 0
  }
}

const buildTree = (positions: Float32Array) => buildBvh(positions, triangles => Math.ceil(triangles / PACKET_LANES) * PACKET_COST)

/** A four-wide tree: children are indices of wide nodes, or −1 − leaf; `box` refers to the binary tree's bounds. */
interface WideTree {
  bounds: Float32Array
  order: Uint32Array
  nodes: { child: number; box: number }[][]
  /** First slot and number of triangles. */
  leaves: { first: number; count: number }[]
  root: number
}

/** Draws grandchildren up, largest box first, until a node has four children. */
function widen({ bounds, links, order }: ReturnType<typeof buildBvh>): WideTree {
  const nodes: WideTree['nodes'] = []
  const leaves: WideTree['leaves'] = []
  const isLeaf = (node: number) => links[node * 2 + 1] > 0
  const halfArea = (node: number) => {
    const at = node * 6
    const x = bounds[at + 3] - bounds[at]
    const y = bounds[at + 4] - bounds[at + 1]
    const z = bounds[at + 5] - bounds[at + 2]
    return x * y + y * z + z * x
  }
  const addLeaf = (node: number) => -leaves.push({ first: links[node * 2], count: links[node * 2 + 1] })
  if (order.length === 0) return { bounds, order, nodes, leaves, root: 0 }
  if (isLeaf(0)) return { bounds, order, nodes, leaves, root: addLeaf(0) }
  nodes.push([])
  const work = [{ node: 0, wide: 0 }]
  for (let item = work.pop(); item; item = work.pop()) {
    const left = links[item.node * 2]
    const members = [left, left + 1]
    while (members.length < 4) {
      let largest = -1
      for (let k = 0; k < members.length; k++)
        if (!isLeaf(members[k]) && (largest < 0 || halfArea(members[k]) > halfArea(members[largest]))) largest = k
      if (largest < 0) break
      const first = links[members[largest] * 2]
      members.splice(largest, 1, first, first + 1)
    }
    nodes[item.wide] = members.map(node => {
      if (isLeaf(node)) return { child: addLeaf(node), box: node }
      const wide = nodes.push([]) - 1
      work.push({ node, wide })
      return { child: wide, box: node }
    })
  }
  return { bounds, order, nodes, leaves, root: 0 }
}

/** Writes the tree into the kernel's memory and returns the address of its root. */
function pack(
  buffer: ArrayBuffer,
  { bounds, order, nodes, leaves, root }: WideTree,
  positions: Float32Array,
  flagsOf: (triangle: number) => number,
): number {
  const floats = new Float32Array(buffer)
  const words = new Uint32Array(buffer)
  const packetsStart = KERNEL_END + nodes.length * NODE_BYTES
  const addressOf = (child: number) =>
    child >= 0 ? KERNEL_END + child * NODE_BYTES : packetsStart + (-1 - child) * PACKET_BYTES + 1
  nodes.forEach((members, index) => {
    const at = (KERNEL_END + index * NODE_BYTES) / 4
    for (let lane = 0; lane < 4; lane++) {
      const member = members[lane]
      for (let c = 0; c < 3; c++) {
        floats[at + c * 4 + lane] = member ? bounds[member.box * 6 + c] : Number.POSITIVE_INFINITY
        floats[at + 12 + c * 4 + lane] = member ? bounds[member.box * 6 + 3 + c] : Number.NEGATIVE_INFINITY
      }
      words[at + 24 + lane] = member ? addressOf(member.child) : 0
    }
  })
  leaves.forEach(({ first, count }, index) => {
    const at = (packetsStart + index * PACKET_BYTES) / 4
    for (let lane = 0; lane < PACKET_LANES; lane++) {
      if (lane >= count) {
        floats[at + 36 + lane] = Number.NaN
        continue
      }
      const triangle = order[first + lane]
      const t = triangle * 9
      let size = 0
      for (let c = 0; c < 3; c++) {
        floats[at + c * 4 + lane] = positions[t + c]
        floats[at + 12 + c * 4 + lane] = positions[t + 3 + c] - positions[t + c]
        floats[at + 24 + c * 4 + lane] = positions[t + 6 + c] - positions[t + c]
        size += Math.abs(positions[t + 3 + c] - positions[t + c]) + Math.abs(positions[t + 6 + c] - positions[t + c])
      }
      floats[at + 36 + lane] = size
      words[at + 40 + lane] = (triangle + flagsOf(triangle)) >>> 0
    }
  })
  return nodes.length === 0 && leaves.length === 0 ? 0 : addressOf(nodes.length > 0 ? root : -1)
}
