import { type BvhTree, buildBvh } from './build-bvh'
import type { AcceptHit, Among, RayCaster, RayHit } from './ray-caster'
import { TINTED, type Triangles } from './simd-caster'

/**
 * Traversal in plain TypeScript and doubles, nearest child first: the slow reference that the SIMD kernel must equal.
 *
 * Slot s of the tree:  corners[9 s ..] = first corner, edge to the second, edge to the third
 */
export class Bvh implements RayCaster {
  private readonly stack = new Int32Array(128)
  private readonly stackNear = new Float64Array(128)

  private constructor(
    private readonly tree: BvhTree,
    private readonly corners: Float32Array,
    /** 1 where a triangle needs `accept`, by triangle index; null when none does. */
    private readonly masked: Uint8Array | null,
    private readonly accept: AcceptHit | null,
    /** Where a triangle lets light through and so casts no shadow; null when none does. */
    private readonly clear: Uint8Array | null,
  ) {}

  static build({ positions, masked = null, accept = null, clear = null }: Omit<Triangles, 'shapes'>): Bvh {
    const tree = buildBvh(positions, triangles => triangles)
    const { order } = tree
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
    return new Bvh(tree, corners, anyMasked, anyMasked ? accept : null, clear?.some(c => c !== 0) ? clear : null)
  }

  get hasTinted(): boolean {
    return this.clear?.includes(TINTED) === true
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
    const { corners, stack, stackNear, masked, accept } = this
    const clear = among === 'everything' ? null : this.clear
    const { bounds, links, order } = this.tree
    hit.triangle = -1
    hit.distance = far
    if (order.length === 0 || (among === 'tinted' && clear === null)) return false
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
          const t = meetTriangle(corners, at, ox, oy, oz, dx, dy, dz, nearest, met)
          if (t < 0) continue
          const triangle = order[s]
          if (clear !== null && (among === 'solid' ? clear[triangle] !== 0 : clear[triangle] !== TINTED)) continue
          if (masked !== null && masked[triangle] === 1 && !accept!(triangle, met[0], met[1])) continue
          nearest = t
          hit.triangle = triangle
          hit.placement = -1
          hit.distance = t
          hit.u = met[0]
          hit.v = met[1]
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
    const { corners, stack, masked, accept, clear } = this
    const { bounds, links, order } = this.tree
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
          const t = meetTriangle(corners, at, ox, oy, oz, dx, dy, dz, far, met)
          if (t < 0) continue
          const triangle = order[s]
          if (clear !== null && clear[triangle] !== 0) continue
          if (masked === null || masked[triangle] === 0 || accept!(triangle, met[0], met[1])) return true
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

/** Where on it the triangle that was met last was met. */
const met = new Float64Array(2)

/**
 * Distance at which a ray meets a triangle from either side, and in `dstUv` where on it; -1 where it does not before `far`.
 * Source: Möller & Trumbore 1997.
 * @param corners a corner and the two edges from it, 9 numbers from `at`
 */
function meetTriangle(
  corners: Float32Array,
  at: number,
  ox: number,
  oy: number,
  oz: number,
  dx: number,
  dy: number,
  dz: number,
  far: number,
  dstUv: Float64Array,
): number {
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
  if (det === 0) return -1
  const inv = 1 / det
  const tx = ox - corners[at]
  const ty = oy - corners[at + 1]
  const tz = oz - corners[at + 2]
  const u = (tx * px + ty * py + tz * pz) * inv
  if (u < 0 || u > 1) return -1
  const qx = ty * e1z - tz * e1y
  const qy = tz * e1x - tx * e1z
  const qz = tx * e1y - ty * e1x
  const v = (dx * qx + dy * qy + dz * qz) * inv
  if (v < 0 || u + v > 1) return -1
  const t = (e2x * qx + e2y * qy + e2z * qz) * inv
  if (t <= 0 || t >= far) return -1
  dstUv[0] = u
  dstUv[1] = v
  return t
}
