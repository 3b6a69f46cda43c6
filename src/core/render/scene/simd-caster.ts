import { KERNEL_END, KernelMemory } from '../kernel/kernel-memory'
import type { AcceptHit, RayCaster, RayHit } from './ray-caster'

/**
 * Traversal by the WebAssembly kernel in src/kernel, of which traverse.ts draws the memory layout packed here.
 * One instance, with its own memory, for each scene.
 */

const HEADER_BYTES = 32
const RECORD_BYTES = 32
const SCRATCH_BYTES = 16_384
/** As the kernel has them in a triangle's top bits; also what a hit may skip. */
const MASKED = 2
const CLEAR = 1
const SKIP_CLEAR = 0x40000000

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
    if (positions.length % 9 !== 0) throw new RangeError(`positions: ${positions.length} is not a multiple of 9`)
    const count = positions.length / 9
    const flags = new Uint8Array(count)
    for (let t = 0; t < count; t++) flags[t] = (accept && masked?.[t] === 1 ? MASKED : 0) + (clear?.[t] === 1 ? CLEAR : 0)
    const { tree, root } = buildTree(positions, flags)
    const memory = KernelMemory.open(KERNEL_END + tree.length, (triangle, u, v) => (accept!(triangle, u, v) ? 1 : 0))
    new Uint8Array(memory.buffer).set(tree, KERNEL_END)
    memory.kernel.setRoot(root)
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
    const triangle = this.memory.kernel.closestHit(ox, oy, oz, dx, dy, dz, far, throughClear ? SKIP_CLEAR : 0)
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

/**
 * The tree as it stands from {@link KERNEL_END} on, and the address of its root. It is built in a memory of its own, which takes several
 * times as much as what comes out.
 */
function buildTree(positions: Float32Array, flags: Uint8Array): { tree: Uint8Array; root: number } {
  const count = flags.length
  const memory = KernelMemory.open()
  const at = memory.allocate(HEADER_BYTES)
  // The last corner is read with what follows it.
  const [corners, bits] = [memory.allocate(positions.byteLength + 16), memory.allocate(count)]
  const [records, nodes] = [memory.allocate(count * RECORD_BYTES), memory.allocate(count * 2 * RECORD_BYTES)]
  const scratch = memory.allocate(SCRATCH_BYTES)
  new Float32Array(memory.buffer, corners, positions.length).set(positions)
  new Uint8Array(memory.buffer, bits, count).set(flags)
  new Uint32Array(memory.buffer, at, 6).set([corners, bits, count, records, nodes, scratch])
  const bytes = memory.kernel.buildTree(at)
  const to = memory.allocate(bytes)
  const root = memory.kernel.writeTree(to, to - KERNEL_END)
  return { tree: new Uint8Array(memory.buffer, to, bytes), root }
}
