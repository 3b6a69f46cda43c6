/**
 * A binary bounding volume hierarchy in flat arrays.
 *
 * Node i:  bounds[6 i .. 6 i + 5] = min xyz, max xyz
 *          links[2 i]     = inner: index of the left child (right = left + 1); leaf: first triangle slot
 *          links[2 i + 1] = inner: 0; leaf: number of triangles
 * Slot s:  order[s] = triangle index
 */
export interface BvhTree {
  bounds: Float32Array
  links: Int32Array
  order: Uint32Array
}

export const MAX_LEAF = 4
const BINS = 16
/** Depth from which a node is halved by count instead, so that a traversal's stack has a bound. */
const MAX_SAH_DEPTH = 60

/**
 * Builds by binned surface area heuristic (Wald 2007).
 * @param positions 9 floats for each triangle
 * @param leafCost what testing a leaf of n triangles costs, in tests of one inner node's boxes
 * @throws RangeError when the positions are no whole triangles
 */
export function buildBvh(positions: Float32Array, leafCost: (triangles: number) => number): BvhTree {
  if (positions.length % 9 !== 0) throw new RangeError(`positions: ${positions.length} is not a multiple of 9`)
  const count = positions.length / 9
  const order = Uint32Array.from({ length: count }, (_, i) => i)
  const { boxes, centres } = measureTriangles(positions)
  const bounds = new Float32Array(Math.max(1, count * 2) * 6)
  const links = new Int32Array(Math.max(1, count * 2) * 2)
  const binner = new Binner(boxes, centres, order, leafCost)
  let nodeCount = 1
  const work: number[] = count > 0 ? [0, 0, count, 0] : []
  while (work.length > 0) {
    const depth = work.pop()!
    const end = work.pop()!
    const begin = work.pop()!
    const node = work.pop()!
    const size = end - begin
    binner.measure(begin, end)
    for (let c = 0; c < 6; c++) bounds[node * 6 + c] = binner.box[c]
    let middle = -1
    if (size > 1 && depth < MAX_SAH_DEPTH) {
      binner.fill(begin, end)
      binner.chooseSplit(size > MAX_LEAF ? Number.POSITIVE_INFINITY : leafCost(size), size)
      if (binner.axis >= 0) middle = binner.partition(begin, end)
    }
    if (middle < 0) {
      if (size <= MAX_LEAF) {
        links[node * 2] = begin
        links[node * 2 + 1] = size
        continue
      }
      // All centres in one place: any halving is as good as another.
      middle = (begin + end) >> 1
    }
    const left = nodeCount
    nodeCount += 2
    links[node * 2] = left
    links[node * 2 + 1] = 0
    work.push(left + 1, middle, end, depth + 1, left, begin, middle, depth + 1)
  }
  return { bounds: bounds.slice(0, nodeCount * 6), links: links.slice(0, nodeCount * 2), order }
}

function measureTriangles(positions: Float32Array) {
  const count = positions.length / 9
  const boxes = new Float32Array(count * 6)
  const centres = new Float32Array(count * 3)
  for (let t = 0; t < count; t++)
    for (let c = 0; c < 3; c++) {
      const p = positions[t * 9 + c]
      const q = positions[t * 9 + 3 + c]
      const r = positions[t * 9 + 6 + c]
      const low = Math.min(p, q, r)
      const high = Math.max(p, q, r)
      boxes[t * 6 + c] = low
      boxes[t * 6 + 3 + c] = high
      centres[t * 3 + c] = (low + high) / 2
    }
  return { boxes, centres }
}

/** The workspace of one build: bins of the three axes side by side, and the best split found. */
class Binner {
  /** Box of the range measured, min xyz and max xyz. */
  readonly box = new Float64Array(6)
  private readonly centreLow = new Float64Array(3)
  private readonly toBin = new Float64Array(3)
  /** 6 floats a bin, BINS bins an axis. */
  private readonly binBoxes = new Float64Array(3 * BINS * 6)
  private readonly binCounts = new Int32Array(3 * BINS)
  private readonly running = new Float64Array(6)
  private readonly leftArea = new Float64Array(BINS)
  /** Axis of the best split; −1 when a leaf is cheaper. */
  axis = -1
  private bin = 0

  constructor(
    private readonly boxes: Float32Array,
    private readonly centres: Float32Array,
    private readonly order: Uint32Array,
    private readonly leafCost: (triangles: number) => number,
  ) {}

  /** Box of the triangles in slots begin..end, and the bins' scale from the box of their centres. */
  measure(begin: number, end: number): void {
    const { boxes, centres, order, box, centreLow, toBin } = this
    for (let c = 0; c < 3; c++) {
      let low = Number.POSITIVE_INFINITY
      let high = Number.NEGATIVE_INFINITY
      let first = Number.POSITIVE_INFINITY
      let last = Number.NEGATIVE_INFINITY
      for (let s = begin; s < end; s++) {
        const t = order[s]
        const a = boxes[t * 6 + c]
        const b = boxes[t * 6 + 3 + c]
        const m = centres[t * 3 + c]
        if (a < low) low = a
        if (b > high) high = b
        if (m < first) first = m
        if (m > last) last = m
      }
      box[c] = low
      box[3 + c] = high
      centreLow[c] = first
      toBin[c] = last > first ? BINS / (last - first) : 0
    }
  }

  fill(begin: number, end: number): void {
    const { boxes, centres, order, centreLow, toBin, binBoxes, binCounts } = this
    binCounts.fill(0)
    for (let b = 0; b < 3 * BINS; b++) emptyBox(binBoxes, b * 6)
    for (let s = begin; s < end; s++) {
      const t = order[s]
      for (let axis = 0; axis < 3; axis++) {
        const b = axis * BINS + binOf(centres[t * 3 + axis], centreLow[axis], toBin[axis])
        binCounts[b]++
        growBox(binBoxes, b * 6, boxes, t * 6)
      }
    }
  }

  /** Sets `axis` and `bin` to the cheapest split that costs less than `limit`. */
  chooseSplit(limit: number, size: number): void {
    const { box, toBin, binBoxes, binCounts, running, leftArea } = this
    const whole = Math.max(halfArea(box, 0), 1e-30)
    let best = limit
    this.axis = -1
    for (let axis = 0; axis < 3; axis++) {
      if (toBin[axis] === 0) continue
      const first = axis * BINS
      emptyBox(running, 0)
      for (let b = 0; b < BINS; b++) {
        growBox(running, 0, binBoxes, (first + b) * 6)
        leftArea[b] = halfArea(running, 0)
      }
      emptyBox(running, 0)
      let right = 0
      for (let b = BINS - 1; b > 0; b--) {
        growBox(running, 0, binBoxes, (first + b) * 6)
        right += binCounts[first + b]
        const left = size - right
        if (right === 0 || left === 0) continue
        const cost = 1 + (leftArea[b - 1] * this.leafCost(left) + halfArea(running, 0) * this.leafCost(right)) / whole
        if (cost < best) {
          best = cost
          this.axis = axis
          this.bin = b
        }
      }
    }
  }

  /** Puts what lies in bins below the chosen one first; the slot where the rest begins. */
  partition(begin: number, end: number): number {
    const { centres, order, axis, bin } = this
    const low = this.centreLow[axis]
    const scale = this.toBin[axis]
    let i = begin
    let j = end - 1
    while (i <= j) {
      const t = order[i]
      if (binOf(centres[t * 3 + axis], low, scale) < bin) i++
      else {
        order[i] = order[j]
        order[j--] = t
      }
    }
    return i
  }
}

function binOf(centre: number, low: number, scale: number): number {
  const b = ((centre - low) * scale) | 0
  return b < BINS ? b : BINS - 1
}

function emptyBox(boxes: Float64Array, at: number): void {
  for (let c = 0; c < 3; c++) {
    boxes[at + c] = Number.POSITIVE_INFINITY
    boxes[at + 3 + c] = Number.NEGATIVE_INFINITY
  }
}

function growBox(dst: Float64Array, at: number, src: Float32Array | Float64Array, from: number): void {
  for (let c = 0; c < 3; c++) {
    if (src[from + c] < dst[at + c]) dst[at + c] = src[from + c]
    if (src[from + 3 + c] > dst[at + 3 + c]) dst[at + 3 + c] = src[from + 3 + c]
  }
}

/** Half the surface of a box; 0 for an empty one. */
function halfArea(boxes: Float64Array, at: number): number {
  const x = boxes[at + 3] - boxes[at]
  const y = boxes[at + 4] - boxes[at + 1]
  const z = boxes[at + 5] - boxes[at + 2]
  return x >= 0 ? x * y + y * z + z * x : 0
}
