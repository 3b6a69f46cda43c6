import { type Affine, determinantOf, IDENTITY, invertAffine, moveBox } from '../../math/affine'
import { KERNEL_END, KernelMemory } from '../kernel/kernel-memory'
import type { AcceptHit, Among, RayCaster, RayHit } from './ray-caster'
import { type DrawnTree, type DrawnTrees, moveTree, type TreeCache, type TreeParts } from './tree-cache'

/**
 * Traversal by the WebAssembly kernel in src/kernel, of which traverse.ts draws the memory layout packed here. One memory for each scene.
 *
 * Two levels: a tree over the triangles that stand in the world as they are, one over each shape, and above them one over the placements
 * of shapes. What is solid and what tints light have trees of their own, so that shadow rays never meet glass, and coloured glass
 * alone where they look for it.
 */

const HEADER_BYTES = 48
const RECORD_BYTES = 32
const SCRATCH_BYTES = 16_384
const PLACEMENT_BYTES = 224
const NODE_BYTES = 128
const AMONG: Record<Among, number> = { everything: 0, solid: 1, tinted: 2 }
const MASKED = 2
const CLEAR = 1
const TINTS = 4
/** See {@link Triangles.clear}. */
export const TINTED = 2
const PLACED = 2
/** Into how many more large triangles may be cut, beside a quarter of all. */
const MOST_CUTS = 2048
/** See src/kernel/build/room.ts. */
const TAG = 0x40000000

/** Triangles that are placed together, as a range of all. */
export interface TriangleRange {
  first: number
  count: number
  /** What it is of, where its trees are to be kept and taken over. */
  parts?: TreeParts
}

/** A use of a shape, by its index. One that leaves it as it is costs a ray nothing, and its hits have no placement. */
export interface Placement {
  shape: number
  toWorld: Affine
}

export interface Triangles {
  /** 9 floats for each triangle, of a shape in its own space. Fewer than 2^30 triangles. */
  positions: Float32Array
  /** 1 for each triangle whose hits must be put to `accept`. */
  masked?: Uint8Array | null
  accept?: AcceptHit | null
  /** For each triangle 0 where it occludes, 1 where it is clear, {@link TINTED} where what passes it is less than what came. */
  clear?: Uint8Array | null
  /** What lies in no shape stands in the world as it is, and comes first. */
  shapes?: readonly TriangleRange[]
  /** Trees over shapes that were built before. */
  trees?: TreeCache
}

/** Trees over one range of triangles: children as a node has them, 0 for nothing; and the box around them. */
interface Tree {
  root: number
  solidRoot: number
  tintedRoot: number
  box: Float32Array
}

export class SimdCaster implements RayCaster {
  /** Distance, u, v of the last hit. */
  private result: Float64Array
  private placementsAt = 0
  private topAt = 0
  private room = 0

  readonly hasTinted: boolean

  private constructor(
    readonly memory: KernelMemory,
    private readonly loose: Tree,
    private readonly shapes: readonly Tree[],
  ) {
    this.result = new Float64Array(memory.buffer, 0, 3)
    this.hasTinted = [loose, ...shapes].some(tree => tree.tintedRoot !== 0)
    memory.setRoots(loose.root, loose.solidRoot, loose.tintedRoot)
  }

  get bytes(): number {
    return this.memory.bytes
  }

  /** @throws RangeError when the positions are no whole triangles */
  static build(
    { positions, masked, accept, clear, shapes = [], trees }: Triangles,
    placements: readonly Placement[] = [],
  ): SimdCaster {
    if (positions.length % 9 !== 0) throw new RangeError(`positions: ${positions.length} is not a multiple of 9`)
    const count = positions.length / 9
    const flags = new Uint8Array(count)
    for (let t = 0; t < count; t++)
      flags[t] = (accept && masked?.[t] === 1 ? MASKED : 0) + (clear?.[t] ? CLEAR : 0) + (clear?.[t] === TINTED ? TINTS : 0)
    const memory = KernelMemory.open(KERNEL_END, (triangle, u, v) => (accept!(triangle, u, v) ? 1 : 0))
    const loose = { first: 0, count: shapes.length > 0 ? shapes[0].first : count }
    const [first, ...rest] = [loose, ...shapes].map(range => putTrees(memory, positions, flags, range, trees))
    const caster = new SimdCaster(memory, first, rest)
    if (shapes.length > 0) caster.place(placements)
    return caster
  }

  /** Puts the shapes elsewhere, or other ones: the upper tree alone is built anew. A placement without extent is left out. */
  place(placements: readonly Placement[]): void {
    const { memory, loose, shapes } = this
    const uses = placements
      .map(({ shape, toWorld }, number) => ({ tree: shapes[shape], toWorld, number, back: invertAffine(toWorld) }))
      .filter(use => use.back !== null && use.tree.root !== 0)
    const entries = uses.length + 1
    if (entries > this.room) {
      this.room = entries
      this.placementsAt = memory.allocate(entries * PLACEMENT_BYTES)
      this.topAt = memory.allocate(entries * NODE_BYTES)
    }
    const doubles = new Float64Array(memory.buffer, this.placementsAt, (entries * PLACEMENT_BYTES) / 8)
    const ints = new Uint32Array(memory.buffer, this.placementsAt, (entries * PLACEMENT_BYTES) / 4)
    const boxes = new Float32Array(entries * (RECORD_BYTES / 4))
    const words = new Uint32Array(entries)
    const write = (
      entry: number,
      { root, solidRoot, tintedRoot }: Tree,
      box: ArrayLike<number>,
      isAsItIs: boolean,
      number: number,
    ) => {
      const at = entry * (PLACEMENT_BYTES / 4)
      ints.set([root, solidRoot, tintedRoot, isAsItIs ? 1 : 0], at + 48)
      ints[at + 54] = number
      words[entry] = this.placementsAt + entry * PLACEMENT_BYTES + PLACED
      // A little wider, so that rounding loses nothing.
      for (let c = 0; c < 3; c++) {
        const slack = 1e-6 * Math.max(Math.abs(box[c]), Math.abs(box[3 + c]), 1e-6)
        boxes[entry * 8 + c] = box[c] - slack
        boxes[entry * 8 + 4 + c] = box[3 + c] + slack
      }
    }
    let used = 0
    if (loose.root !== 0) write(used++, loose, loose.box, true, 0)
    for (const { tree, toWorld, number, back } of uses) {
      doubles.set(back as number[], used * (PLACEMENT_BYTES / 8))
      doubles.set(toWorld, used * (PLACEMENT_BYTES / 8) + 12)
      doubles[used * (PLACEMENT_BYTES / 8) + 26] = 1 / Math.cbrt(Math.abs(determinantOf(toWorld)))
      write(
        used++,
        tree,
        moveBox(toWorld, tree.box),
        toWorld.every((v, i) => v === IDENTITY[i]),
        number,
      )
    }
    const root = this.buildTop(boxes.subarray(0, used * 8), words.subarray(0, used))
    memory.setRoots(root, root, this.hasTinted ? root : 0)
  }

  /** The tree over the placements, at its own place in the memory; its root. */
  private buildTop(boxes: Float32Array, words: Uint32Array): number {
    const builder = KernelMemory.open()
    const at = builder.allocate(HEADER_BYTES)
    const [list, records] = [builder.allocate(words.byteLength), builder.allocate(boxes.byteLength)]
    const [nodes, scratch] = [builder.allocate(words.length * 2 * RECORD_BYTES), builder.allocate(SCRATCH_BYTES)]
    new Uint32Array(builder.buffer, list, words.length).set(words)
    new Float32Array(builder.buffer, records, boxes.length).set(boxes)
    const ints = new Uint32Array(builder.buffer, records, boxes.length)
    for (let i = 0; i < words.length; i++) ints[i * 8 + 3] = i | TAG
    new Uint32Array(builder.buffer, at, 6).set([list, 0, words.length, records, nodes, scratch])
    const bytes = builder.kernel.buildTop(at)
    const to = builder.allocate(bytes)
    const root = builder.kernel.writeTree(to, to - this.topAt)
    new Uint8Array(this.memory.buffer).set(new Uint8Array(builder.buffer, to, bytes), this.topAt)
    return root
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
    among: Among = 'everything',
  ): boolean {
    const { kernel } = this.memory
    const triangle = kernel.closestHit(ox, oy, oz, dx, dy, dz, far, AMONG[among])
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
    hit.placement = kernel.hitPlacementNumber()
    return true
  }

  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean {
    return this.memory.kernel.isOccluded(ox, oy, oz, dx, dy, dz, far) !== 0
  }
}

/** Trees over a range of the triangles, put at the end of the memory; taken over where they were built before. */
function putTrees(
  memory: KernelMemory,
  positions: Float32Array,
  flags: Uint8Array,
  range: TriangleRange,
  trees: TreeCache | undefined,
): Tree {
  const { first, parts } = range
  const known = parts && trees?.get(parts)
  if (known) return takeOver(memory, known, first)
  const drawn = drawTrees(memory, positions, flags, range)
  if (parts && trees) trees.set(parts, keepTrees(drawn))
  return treeOf(drawn.box, drawn.all.root, drawn.solid?.root, drawn.tinted?.root)
}

const treeOf = (box: Float32Array, root: number, solidRoot = root, tintedRoot = 0): Tree => ({ root, solidRoot, tintedRoot, box })

function takeOver(memory: KernelMemory, { first: before, all, solid, tinted, box }: DrawnTrees, first: number): Tree {
  const put = (drawn: DrawnTree): number => {
    const to = memory.allocate(drawn.bytes.length)
    const { bytes, root } = moveTree(drawn, to, first - before)
    new Uint8Array(memory.buffer).set(bytes, to)
    return root
  }
  return treeOf(box, put(all), solid ? put(solid) : undefined, tinted ? put(tinted) : undefined)
}

/** The trees in bytes of their own: the memory that they were drawn in is many times as large. */
function keepTrees({ first, all, solid, tinted, box }: DrawnTrees): DrawnTrees {
  const keep = (drawn: DrawnTree): DrawnTree => ({ ...drawn, bytes: drawn.bytes.slice() })
  return { first, all: keep(all), solid: solid && keep(solid), tinted: tinted && keep(tinted), box }
}

function drawTrees(
  memory: KernelMemory,
  positions: Float32Array,
  flags: Uint8Array,
  { first, count }: TriangleRange,
): DrawnTrees {
  const own = positions.subarray(first * 9, (first + count) * 9)
  const bits = flags.subarray(first, first + count)
  const draw = (among: Among) => drawTree(memory, own, bits, first, among)
  const { box, ...all } = draw('everything')
  const hasClear = bits.some(f => (f & CLEAR) !== 0)
  const hasTinted = bits.some(f => (f & TINTS) !== 0)
  return { first, all, solid: hasClear ? draw('solid') : null, tinted: hasTinted ? draw('tinted') : null, box }
}

/** A tree, built in a memory of its own, which takes several times as much as what comes out. */
function drawTree(
  memory: KernelMemory,
  positions: Float32Array,
  flags: Uint8Array,
  first: number,
  among: Among,
): DrawnTree & { box: Float32Array } {
  const count = flags.length
  // Every surface that tints is to be met once.
  const room = among === 'tinted' ? count : count + Math.min(count * 16, MOST_CUTS) + (count >> 2)
  const builder = KernelMemory.open()
  const at = builder.allocate(HEADER_BYTES)
  // The last corner is read with what follows it.
  const [corners, bits] = [builder.allocate(positions.byteLength + 16), builder.allocate(count)]
  const [records, nodes] = [builder.allocate(room * RECORD_BYTES), builder.allocate(room * 2 * RECORD_BYTES)]
  const scratch = builder.allocate(SCRATCH_BYTES)
  new Float32Array(builder.buffer, corners, positions.length).set(positions)
  new Uint8Array(builder.buffer, bits, count).set(flags)
  new Uint32Array(builder.buffer, at, 9).set([corners, bits, count, records, nodes, scratch, AMONG[among], first, room])
  const size = builder.kernel.buildTree(at)
  const from = builder.allocate(size)
  const to = memory.allocate(size)
  const root = builder.kernel.writeTree(from, from - to)
  const bytes = new Uint8Array(builder.buffer, from, size)
  new Uint8Array(memory.buffer).set(bytes, to)
  const box = new Float32Array(builder.buffer, nodes, 8)
  const around = size > 0 ? Float32Array.of(box[0], box[1], box[2], box[4], box[5], box[6]) : new Float32Array(6)
  return { bytes, at: to, root, box: around }
}
