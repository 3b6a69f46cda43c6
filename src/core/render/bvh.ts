/**
 * Bounding volume hierarchy over a triangle soup: binary, built by binned surface area heuristic (Wald 2007),
 * flat typed arrays, ordered traversal. The plain TypeScript one; a faster kernel takes its place behind `RayCaster`.
 *
 * Node i:  bounds[6 i .. 6 i + 5] = min xyz, max xyz
 *          links[2 i]     = inner: index of the left child (right = left + 1); leaf: first triangle slot
 *          links[2 i + 1] = inner: 0; leaf: number of triangles
 * Slot s:  corners[9 s ..] = first corner, edge to the second, edge to the third; order[s] = triangle index
 */

/** What a traversal writes into; one per caller, never shared between threads. */
export interface RayHit {
  distance: number
  /** Index into the caller's triangles; −1 for a miss. */
  triangle: number
  /** Barycentric weights of the second and third corner. */
  u: number
  v: number
}

/** Decides whether a candidate hit counts, for surfaces with holes. */
export type AcceptHit = (triangle: number, u: number, v: number) => boolean

export interface RayCaster {
  /** Nearest hit with 0 < distance < `far`; false for none. Direction need not be unit; distance is in its lengths. */
  closestHit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number, hit: RayHit): boolean
  /** Whether anything lies within 0 < distance < `far`. */
  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean
}

const BINS = 32
const MAX_LEAF = 4
const TRAVERSAL_COST = 1

export class Bvh implements RayCaster {
  private readonly stack = new Int32Array(128)
  private readonly stackNear = new Float64Array(128)

  private constructor(
    readonly bounds: Float32Array,
    readonly links: Int32Array,
    readonly corners: Float32Array,
    readonly order: Uint32Array,
    /** 1 where a triangle needs `accept`, by triangle index; null when none does. */
    private readonly masked: Uint8Array | null,
    private readonly accept: AcceptHit | null,
    /** 1 where a triangle lets light through and so casts no shadow; null when none does. */
    private readonly clear: Uint8Array | null,
  ) {}

  /**
   * @param positions corner positions, 9 floats for each triangle
   * @param masked 1 for each triangle whose hits must be put to `accept`
   * @param clear 1 for each triangle that does not occlude
   */
  static build(
    positions: Float32Array,
    masked: Uint8Array | null = null,
    accept: AcceptHit | null = null,
    clear: Uint8Array | null = null,
  ): Bvh {
    if (positions.length % 9 !== 0) throw new RangeError(`positions: ${positions.length} is not a multiple of 9`)
    const { bounds, links, order } = buildNodes(positions)
    const corners = new Float32Array(order.length * 9)
    for (let s = 0; s < order.length; s++) {
      const t = order[s] * 9
      for (let c = 0; c < 3; c++) {
        corners[s * 9 + c] = positions[t + c]
        corners[s * 9 + 3 + c] = positions[t + 3 + c] - positions[t + c]
        corners[s * 9 + 6 + c] = positions[t + 6 + c] - positions[t + c]
      }
    }
    const anyMasked = masked?.some(m => m === 1) ? masked : null
    return new Bvh(bounds, links, corners, order, anyMasked, anyMasked ? accept : null, clear?.some(c => c === 1) ? clear : null)
  }

  closestHit(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number, hit: RayHit): boolean {
    const { bounds, links, corners, order, stack, stackNear, masked, accept } = this
    hit.triangle = -1
    hit.distance = far
    if (order.length === 0) return false
    const ix = inverse(dx)
    const iy = inverse(dy)
    const iz = inverse(dz)
    // The side of a box that a ray meets first depends on its direction alone.
    const nx = ix < 0 ? 3 : 0
    const ny = iy < 0 ? 4 : 1
    const nz = iz < 0 ? 5 : 2
    const fx = 3 - nx
    const fy = 5 - ny
    const fz = 7 - nz
    let nearest = far
    let top = 0
    let node = 0
    for (;;) {
      const count = links[node * 2 + 1]
      if (count > 0) {
        const first = links[node * 2]
        for (let s = first; s < first + count; s++) {
          const at = s * 9
          // Möller & Trumbore 1997, two-sided.
          const e1x = corners[at + 3]
          const e1y = corners[at + 4]
          const e1z = corners[at + 5]
          const e2x = corners[at + 6]
          const e2y = corners[at + 7]
          const e2z = corners[at + 8]
          const px = dy * e2z - dz * e2y
          const py = dz * e2x - dx * e2z
          const pz = dx * e2y - dy * e2x
          const det = e1x * px + e1y * py + e1z * pz
          if (det === 0) continue
          const inv = 1 / det
          const tx = ox - corners[at]
          const ty = oy - corners[at + 1]
          const tz = oz - corners[at + 2]
          const u = (tx * px + ty * py + tz * pz) * inv
          if (u < 0 || u > 1) continue
          const qx = ty * e1z - tz * e1y
          const qy = tz * e1x - tx * e1z
          const qz = tx * e1y - ty * e1x
          const v = (dx * qx + dy * qy + dz * qz) * inv
          if (v < 0 || u + v > 1) continue
          const t = (e2x * qx + e2y * qy + e2z * qz) * inv
          if (t <= 0 || t >= nearest) continue
          const triangle = order[s]
          if (masked !== null && masked[triangle] === 1 && !accept!(triangle, u, v)) continue
          nearest = t
          hit.triangle = triangle
          hit.distance = t
          hit.u = u
          hit.v = v
        }
      } else {
        const left = links[node * 2]
        const l = left * 6
        const r = l + 6
        const lx0 = (bounds[l + nx] - ox) * ix
        const lx1 = (bounds[l + fx] - ox) * ix
        const ly0 = (bounds[l + ny] - oy) * iy
        const ly1 = (bounds[l + fy] - oy) * iy
        const lz0 = (bounds[l + nz] - oz) * iz
        const lz1 = (bounds[l + fz] - oz) * iz
        const leftNear = Math.max(Math.max(lx0, ly0), Math.max(lz0, 0))
        const leftFar = Math.min(Math.min(lx1, ly1), Math.min(lz1, nearest))
        const rx0 = (bounds[r + nx] - ox) * ix
        const rx1 = (bounds[r + fx] - ox) * ix
        const ry0 = (bounds[r + ny] - oy) * iy
        const ry1 = (bounds[r + fy] - oy) * iy
        const rz0 = (bounds[r + nz] - oz) * iz
        const rz1 = (bounds[r + fz] - oz) * iz
        const rightNear = Math.max(Math.max(rx0, ry0), Math.max(rz0, 0))
        const rightFar = Math.min(Math.min(rx1, ry1), Math.min(rz1, nearest))
        const hitsLeft = leftNear <= leftFar
        const hitsRight = rightNear <= rightFar
        if (hitsLeft && hitsRight) {
          const leftFirst = leftNear <= rightNear
          stack[top] = leftFirst ? left + 1 : left
          stackNear[top++] = leftFirst ? rightNear : leftNear
          node = leftFirst ? left : left + 1
          continue
        }
        if (hitsLeft || hitsRight) {
          node = hitsLeft ? left : left + 1
          continue
        }
      }
      do {
        if (top === 0) return hit.triangle >= 0
        node = stack[--top]
      } while (stackNear[top] >= nearest)
    }
  }

  isOccluded(ox: number, oy: number, oz: number, dx: number, dy: number, dz: number, far: number): boolean {
    const { bounds, links, corners, order, stack, masked, accept, clear } = this
    if (order.length === 0) return false
    const ix = inverse(dx)
    const iy = inverse(dy)
    const iz = inverse(dz)
    // The side of a box that a ray meets first depends on its direction alone.
    const nx = ix < 0 ? 3 : 0
    const ny = iy < 0 ? 4 : 1
    const nz = iz < 0 ? 5 : 2
    const fx = 3 - nx
    const fy = 5 - ny
    const fz = 7 - nz
    let top = 0
    let node = 0
    for (;;) {
      const count = links[node * 2 + 1]
      if (count > 0) {
        const first = links[node * 2]
        for (let s = first; s < first + count; s++) {
          const at = s * 9
          const e1x = corners[at + 3]
          const e1y = corners[at + 4]
          const e1z = corners[at + 5]
          const e2x = corners[at + 6]
          const e2y = corners[at + 7]
          const e2z = corners[at + 8]
          const px = dy * e2z - dz * e2y
          const py = dz * e2x - dx * e2z
          const pz = dx * e2y - dy * e2x
          const det = e1x * px + e1y * py + e1z * pz
          if (det === 0) continue
          const inv = 1 / det
          const tx = ox - corners[at]
          const ty = oy - corners[at + 1]
          const tz = oz - corners[at + 2]
          const u = (tx * px + ty * py + tz * pz) * inv
          if (u < 0 || u > 1) continue
          const qx = ty * e1z - tz * e1y
          const qy = tz * e1x - tx * e1z
          const qz = tx * e1y - ty * e1x
          const v = (dx * qx + dy * qy + dz * qz) * inv
          if (v < 0 || u + v > 1) continue
          const t = (e2x * qx + e2y * qy + e2z * qz) * inv
          if (t <= 0 || t >= far) continue
          const triangle = order[s]
          if (clear !== null && clear[triangle] === 1) continue
          if (masked === null || masked[triangle] === 0 || accept!(triangle, u, v)) return true
        }
      } else {
        const left = links[node * 2]
        for (let child = left; child <= left + 1; child++) {
          const b = child * 6
          const x0 = (bounds[b + nx] - ox) * ix
          const x1 = (bounds[b + fx] - ox) * ix
          const y0 = (bounds[b + ny] - oy) * iy
          const y1 = (bounds[b + fy] - oy) * iy
          const z0 = (bounds[b + nz] - oz) * iz
          const z1 = (bounds[b + fz] - oz) * iz
          const near = Math.max(Math.max(x0, y0), Math.max(z0, 0))
          const end = Math.min(Math.min(x1, y1), Math.min(z1, far))
          if (near <= end) stack[top++] = child
        }
      }
      if (top === 0) return false
      node = stack[--top]
    }
  }
}

/** A tiny stand-in for zero keeps 0 × infinity, and with it NaN, out of the slab test. */
const inverse = (d: number): number => 1 / (Math.abs(d) < 1e-20 ? 1e-20 : d)

function buildNodes(positions: Float32Array) {
  const count = positions.length / 9
  const order = Uint32Array.from({ length: count }, (_, i) => i)
  const centroids = new Float32Array(count * 3)
  const boxes = new Float32Array(count * 6)
  for (let t = 0; t < count; t++) {
    for (let c = 0; c < 3; c++) {
      const a = positions[t * 9 + c]
      const b = positions[t * 9 + 3 + c]
      const d = positions[t * 9 + 6 + c]
      boxes[t * 6 + c] = Math.min(a, b, d)
      boxes[t * 6 + 3 + c] = Math.max(a, b, d)
      centroids[t * 3 + c] = (boxes[t * 6 + c] + boxes[t * 6 + 3 + c]) / 2
    }
  }
  const bounds = new Float32Array(Math.max(1, count * 2) * 6)
  const links = new Int32Array(Math.max(1, count * 2) * 2)
  let nodeCount = 1
  const binBoxes = new Float64Array(BINS * 6)
  const binCounts = new Int32Array(BINS)
  const leftArea = new Float64Array(BINS)
  const work: number[] = count > 0 ? [0, 0, count, 0] : []

  const halfArea = (x: number, y: number, z: number) => x * y + y * z + z * x

  while (work.length > 0) {
    const depth = work.pop()!
    const end = work.pop()!
    const begin = work.pop()!
    const node = work.pop()!
    const low = [Infinity, Infinity, Infinity]
    const high = [-Infinity, -Infinity, -Infinity]
    const centreLow = [Infinity, Infinity, Infinity]
    const centreHigh = [-Infinity, -Infinity, -Infinity]
    for (let s = begin; s < end; s++) {
      const t = order[s]
      for (let c = 0; c < 3; c++) {
        if (boxes[t * 6 + c] < low[c]) low[c] = boxes[t * 6 + c]
        if (boxes[t * 6 + 3 + c] > high[c]) high[c] = boxes[t * 6 + 3 + c]
        if (centroids[t * 3 + c] < centreLow[c]) centreLow[c] = centroids[t * 3 + c]
        if (centroids[t * 3 + c] > centreHigh[c]) centreHigh[c] = centroids[t * 3 + c]
      }
    }
    bounds.set(low, node * 6)
    bounds.set(high, node * 6 + 3)
    const size = end - begin
    const leafCost = size
    let bestCost = size > MAX_LEAF ? Infinity : leafCost
    let bestAxis = -1
    let bestBin = 0
    const area = halfArea(high[0] - low[0], high[1] - low[1], high[2] - low[2])
    for (let axis = 0; axis < 3 && size > 1 && depth < 60; axis++) {
      const extent = centreHigh[axis] - centreLow[axis]
      if (!(extent > 0)) continue
      for (let b = 0; b < BINS; b++) {
        binCounts[b] = 0
        for (let c = 0; c < 3; c++) {
          binBoxes[b * 6 + c] = Infinity
          binBoxes[b * 6 + 3 + c] = -Infinity
        }
      }
      const toBin = BINS / extent
      for (let s = begin; s < end; s++) {
        const t = order[s]
        const b = Math.min(BINS - 1, Math.floor((centroids[t * 3 + axis] - centreLow[axis]) * toBin))
        binCounts[b]++
        for (let c = 0; c < 3; c++) {
          if (boxes[t * 6 + c] < binBoxes[b * 6 + c]) binBoxes[b * 6 + c] = boxes[t * 6 + c]
          if (boxes[t * 6 + 3 + c] > binBoxes[b * 6 + 3 + c]) binBoxes[b * 6 + 3 + c] = boxes[t * 6 + 3 + c]
        }
      }
      sweep(binBoxes, binCounts, leftArea)
      let rightCount = 0
      let x0 = Infinity,
        y0 = Infinity,
        z0 = Infinity,
        x1 = -Infinity,
        y1 = -Infinity,
        z1 = -Infinity
      let leftCount = size
      for (let b = BINS - 1; b > 0; b--) {
        rightCount += binCounts[b]
        leftCount -= binCounts[b]
        x0 = Math.min(x0, binBoxes[b * 6])
        y0 = Math.min(y0, binBoxes[b * 6 + 1])
        z0 = Math.min(z0, binBoxes[b * 6 + 2])
        x1 = Math.max(x1, binBoxes[b * 6 + 3])
        y1 = Math.max(y1, binBoxes[b * 6 + 4])
        z1 = Math.max(z1, binBoxes[b * 6 + 5])
        if (rightCount === 0 || leftCount === 0) continue
        const rightArea = halfArea(x1 - x0, y1 - y0, z1 - z0)
        const cost = TRAVERSAL_COST + (leftArea[b - 1] * leftCount + rightArea * rightCount) / Math.max(area, 1e-30)
        if (cost < bestCost) {
          bestCost = cost
          bestAxis = axis
          bestBin = b
        }
      }
    }
    let middle: number
    if (bestAxis >= 0) {
      const toBin = BINS / (centreHigh[bestAxis] - centreLow[bestAxis])
      middle = partition(
        order,
        begin,
        end,
        t => Math.min(BINS - 1, Math.floor((centroids[t * 3 + bestAxis] - centreLow[bestAxis]) * toBin)) < bestBin,
      )
    } else if (size > MAX_LEAF) {
      // All centroids in one place: any halving is as good as another.
      middle = (begin + end) >> 1
    } else {
      links[node * 2] = begin
      links[node * 2 + 1] = size
      continue
    }
    const left = nodeCount
    nodeCount += 2
    links[node * 2] = left
    links[node * 2 + 1] = 0
    work.push(left + 1, middle, end, depth + 1, left, begin, middle, depth + 1)
  }
  return { bounds: bounds.slice(0, nodeCount * 6), links: links.slice(0, nodeCount * 2), order }
}

/** Half surface areas of the union of bins 0..b, into `dstArea[b]`. */
function sweep(boxes: Float64Array, counts: Int32Array, dstArea: Float64Array): void {
  let x0 = Infinity,
    y0 = Infinity,
    z0 = Infinity,
    x1 = -Infinity,
    y1 = -Infinity,
    z1 = -Infinity
  for (let b = 0; b < counts.length; b++) {
    x0 = Math.min(x0, boxes[b * 6])
    y0 = Math.min(y0, boxes[b * 6 + 1])
    z0 = Math.min(z0, boxes[b * 6 + 2])
    x1 = Math.max(x1, boxes[b * 6 + 3])
    y1 = Math.max(y1, boxes[b * 6 + 4])
    z1 = Math.max(z1, boxes[b * 6 + 5])
    const x = x1 - x0
    const y = y1 - y0
    const z = z1 - z0
    dstArea[b] = x >= 0 ? x * y + y * z + z * x : 0
  }
}

function partition(order: Uint32Array, begin: number, end: number, isLeft: (t: number) => boolean): number {
  let i = begin
  let j = end - 1
  while (i <= j) {
    if (isLeft(order[i])) i++
    else {
      const t = order[i]
      order[i] = order[j]
      order[j--] = t
    }
  }
  return i
}
