import type { Mesh } from '../../geometry/mesh'
import { type Affine, invertAffine } from '../../math/affine'
import { cross, dot, normalize, subtract, type Vec3 } from '../../math/vec3'
import type { Box } from './snapping'

export interface Ray {
  origin: Vec3
  /** Of any length; distances are in times of it. */
  direction: Vec3
}

/** Something that stands somewhere, for a ray to meet. */
export interface Castable<T> {
  of: T
  /** In its own space. */
  box: Box
  parts: readonly { name: string; mesh: Mesh }[]
  toWorld: Affine
  /** Whether it is met from behind too. */
  isTwoSided: boolean
}

export interface CastHit<T> {
  of: T
  part: string
  distance: number
  point: Vec3
  /** Of the face, outwards, unit. */
  normal: Vec3
  /** Of the face. */
  corners: readonly [Vec3, Vec3, Vec3]
}

const along = ({ origin, direction }: Ray, t: number): Vec3 => [
  origin[0] + direction[0] * t,
  origin[1] + direction[1] * t,
  origin[2] + direction[2] * t,
]

/** The first thing that a ray meets; null for none. Boxes are met first, and triangles only of those that may be nearer. */
export function castInto<T>(ray: Ray, things: readonly Castable<T>[]): CastHit<T> | null {
  const near = things
    .flatMap(thing => {
      const back = invertAffine(thing.toWorld)
      if (!back) return []
      const local = { origin: movePoint(back, ray.origin), direction: moveDirection(back, ray.direction) }
      const enter = enterBox(local, thing.box)
      return enter === null ? [] : [{ thing, local, enter }]
    })
    .sort((a, b) => a.enter - b.enter)
  let best: CastHit<T> | null = null
  for (const { thing, local, enter } of near) {
    if (best && enter >= best.distance) break
    for (const { name, mesh } of thing.parts) {
      const hit = castMesh(local, mesh, best?.distance ?? Number.POSITIVE_INFINITY, thing.isTwoSided)
      if (!hit) continue
      const normal = normalize(moveDirection(thing.toWorld, hit.normal))
      const [a, b, c] = hit.corners.map(v => movePoint(thing.toWorld, pointOf(mesh, v)))
      best = { of: thing.of, part: name, distance: hit.distance, point: along(ray, hit.distance), normal, corners: [a, b, c] }
    }
  }
  return best
}

const pointOf = ({ positions: p }: Mesh, v: number): Vec3 => [p[v * 3], p[v * 3 + 1], p[v * 3 + 2]]

const movePoint = (a: Affine, [x, y, z]: Vec3): Vec3 => [
  a[0] * x + a[1] * y + a[2] * z + a[3],
  a[4] * x + a[5] * y + a[6] * z + a[7],
  a[8] * x + a[9] * y + a[10] * z + a[11],
]
const moveDirection = (a: Affine, [x, y, z]: Vec3): Vec3 => [
  a[0] * x + a[1] * y + a[2] * z,
  a[4] * x + a[5] * y + a[6] * z,
  a[8] * x + a[9] * y + a[10] * z,
]

/** Distance at which a ray comes into a box; 0 from inside, null where it passes by. */
export function enterBox({ origin, direction }: Ray, { min, max }: Box): number | null {
  let [low, high] = [0, Number.POSITIVE_INFINITY]
  for (let k = 0; k < 3; k++) {
    // A hair of room: what is flat has a box without depth.
    const [a, b] = [min[k] - 1e-6 - origin[k], max[k] + 1e-6 - origin[k]]
    if (Math.abs(direction[k]) < 1e-12) {
      if (a > 0 || b < 0) return null
      continue
    }
    const [t0, t1] = [a / direction[k], b / direction[k]]
    low = Math.max(low, Math.min(t0, t1))
    high = Math.min(high, Math.max(t0, t1))
  }
  return low <= high ? low : null
}

/** Möller & Trumbore (1997) over all triangles. */
function castMesh({ origin: o, direction: d }: Ray, { positions: p, indices }: Mesh, farthest: number, isTwoSided: boolean) {
  let best = farthest
  let normal: Vec3 | null = null
  let at = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    const e1x = p[b] - p[a]
    const e1y = p[b + 1] - p[a + 1]
    const e1z = p[b + 2] - p[a + 2]
    const e2x = p[c] - p[a]
    const e2y = p[c + 1] - p[a + 1]
    const e2z = p[c + 2] - p[a + 2]
    const px = d[1] * e2z - d[2] * e2y
    const py = d[2] * e2x - d[0] * e2z
    const pz = d[0] * e2y - d[1] * e2x
    const det = e1x * px + e1y * py + e1z * pz
    if (isTwoSided ? det === 0 : det <= 0) continue
    const tx = o[0] - p[a]
    const ty = o[1] - p[a + 1]
    const tz = o[2] - p[a + 2]
    const u = (tx * px + ty * py + tz * pz) / det
    if (u < 0 || u > 1) continue
    const qx = ty * e1z - tz * e1y
    const qy = tz * e1x - tx * e1z
    const qz = tx * e1y - ty * e1x
    const v = (d[0] * qx + d[1] * qy + d[2] * qz) / det
    if (v < 0 || u + v > 1) continue
    const t = (e2x * qx + e2y * qy + e2z * qz) / det
    if (t <= 1e-9 || t >= best) continue
    best = t
    at = i
    normal = cross([e1x, e1y, e1z], [e2x, e2y, e2z])
    if (dot(normal, d) > 0) normal = subtract([0, 0, 0], normal)
  }
  return normal ? { distance: best, normal, corners: [indices[at], indices[at + 1], indices[at + 2]] } : null
}

/** Where a ray comes down on a level plane; null where it never does. */
export function castOntoLevel(ray: Ray, heightM: number): Vec3 | null {
  const t = (heightM - ray.origin[1]) / ray.direction[1]
  return Number.isFinite(t) && t > 0 ? along(ray, t) : null
}
