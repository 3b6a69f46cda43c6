import type { Mesh } from '../geometry/mesh'
import type { Vec3 } from '../math/vec3'
import type { Stamp } from '../stamp'
import type { Digest } from './map-print'

/**
 * Moments of a surface, which add up over parts and follow a turn, a move and a scale: area, its first and its second moments
 * (xx, yy, zz, xy, xz, yz). In metres.
 */
export interface Moments {
  areaM2: number
  first: Vec3
  second: [number, number, number, number, number, number]
}

/** One piece of surface with one material, in its own frame. */
export interface PartPrint {
  name: string
  /** Of positions and indices. */
  content: string
  triangles: number
  moments: Moments
  /** Number of its material in the scene; null without one. */
  material: number | null
}

/** A part of a model where it stands in it. */
export interface PlacedPart extends PartPrint {
  placed: Moments
}

export interface ModelPrint {
  name: string
  stamp: Stamp | null
  parts: PlacedPart[]
  /** Of each part the code of the model whose own material it wears; null of any other material. */
  owners: (string | null)[]
  /** Of all parts, where they stand. */
  moments: Moments
  triangles: number
  /** How it stands in the scene; 1 and false where it stands as it is. */
  scale: number
  isMirrored: boolean
}

/** What does not change with place, turn, size, and how a surface is cut into triangles. */
export interface Shape {
  /** Root of the mean squared distance from the middle, in metres. */
  radiusM: number
  /** Spreads along the three principal directions over the radius, the largest first; their squares sum to 1. */
  spreads: Vec3
  /** Area over the square of the radius. */
  fullness: number
}

/** Of a mesh; exact for flat triangles. */
export function momentsOf({ positions: p, indices }: Pick<Mesh, 'positions' | 'indices'>): Moments {
  const moments: Moments = { areaM2: 0, first: [0, 0, 0], second: [0, 0, 0, 0, 0, 0] }
  const { first, second } = moments
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
    const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
    const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
    const area = Math.hypot(uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx) / 2
    if (!(area > 0)) continue
    moments.areaM2 += area
    const sum = [p[a] + p[b] + p[c], p[a + 1] + p[b + 1] + p[c + 1], p[a + 2] + p[b + 2] + p[c + 2]]
    for (let k = 0; k < 3; k++) first[k] += (area * sum[k]) / 3
    // Over a triangle the mean of x·y is (sum of x·y at the corners + sum of x · sum of y) / 12.
    for (let k = 0; k < 6; k++) {
      const [r, s] = PAIRS[k]
      const corners = p[a + r] * p[a + s] + p[b + r] * p[b + s] + p[c + r] * p[c + s]
      second[k] += (area * (corners + sum[r] * sum[s])) / 12
    }
  }
  return moments
}

const PAIRS = [
  [0, 0],
  [1, 1],
  [2, 2],
  [0, 1],
  [0, 2],
  [1, 2],
] as const

export function printPart(
  name: string,
  { positions, indices }: Pick<Mesh, 'positions' | 'indices'>,
  material: number | null,
  digest: Digest,
): PartPrint {
  const bytes = new Uint8Array(positions.byteLength + indices.byteLength)
  bytes.set(new Uint8Array(positions.buffer, positions.byteOffset, positions.byteLength))
  bytes.set(new Uint8Array(indices.buffer, indices.byteOffset, indices.byteLength), positions.byteLength)
  return { name, content: digest(bytes), triangles: indices.length / 3, moments: momentsOf({ positions, indices }), material }
}

/** A matrix of glTF: column by column, 16 numbers. */
export type Matrix = readonly number[]

export const scaleOf = (m: Matrix): number => Math.cbrt(Math.abs(determinant(m)))
export const isMirroring = (m: Matrix): boolean => determinant(m) < 0

const determinant = (m: Matrix): number =>
  m[0] * (m[5] * m[10] - m[6] * m[9]) - m[4] * (m[1] * m[10] - m[2] * m[9]) + m[8] * (m[1] * m[6] - m[2] * m[5])

/** Moments after a placing; where it stretches, the area is that of the mean of its axes. */
export function moveMoments({ areaM2, first, second }: Moments, m: Matrix): Moments {
  const areaScale = scaleOf(m) ** 2
  const [xx, yy, zz, xy, xz, yz] = second
  const s = [
    [xx, xy, xz],
    [xy, yy, yz],
    [xz, yz, zz],
  ]
  const linear = (r: number, c: number) => m[c * 4 + r]
  const offset = [m[12], m[13], m[14]]
  const turned = [0, 1, 2].map(r => [0, 1, 2].reduce((sum, k) => sum + linear(r, k) * first[k], 0))
  const moved = (r: number, c: number): number => {
    let sum = 0
    for (let i = 0; i < 3; i++) for (let j = 0; j < 3; j++) sum += linear(r, i) * s[i][j] * linear(c, j)
    return sum + turned[r] * offset[c] + offset[r] * turned[c] + areaM2 * offset[r] * offset[c]
  }
  return {
    areaM2: areaM2 * areaScale,
    first: [0, 1, 2].map(r => (turned[r] + areaM2 * offset[r]) * areaScale) as Vec3,
    second: PAIRS.map(([r, c]) => moved(r, c) * areaScale) as Moments['second'],
  }
}

export function addMoments(list: readonly Moments[]): Moments {
  const sum: Moments = { areaM2: 0, first: [0, 0, 0], second: [0, 0, 0, 0, 0, 0] }
  for (const { areaM2, first, second } of list) {
    sum.areaM2 += areaM2
    for (let k = 0; k < 3; k++) sum.first[k] += first[k]
    for (let k = 0; k < 6; k++) sum.second[k] += second[k]
  }
  return sum
}

/** Null of what has no area. */
export function shapeOf({ areaM2, first, second }: Moments): Shape | null {
  if (!(areaM2 > 0)) return null
  const middle = first.map(v => v / areaM2)
  const c = PAIRS.map(([r, s], k) => second[k] / areaM2 - middle[r] * middle[s])
  const trace = c[0] + c[1] + c[2]
  if (!(trace > 0)) return null
  const values = eigenvalues(c as Moments['second'])
  return {
    radiusM: Math.sqrt(trace),
    spreads: values.map(v => Math.sqrt(Math.max(0, v) / trace)) as Vec3,
    fullness: areaM2 / trace,
  }
}

/** Of a symmetric 3 x 3 matrix, the largest first (Smith 1961, by the cosine of a third of an angle). */
function eigenvalues([xx, yy, zz, xy, xz, yz]: Moments['second']): Vec3 {
  const q = (xx + yy + zz) / 3
  const p2 = (xx - q) ** 2 + (yy - q) ** 2 + (zz - q) ** 2 + 2 * (xy * xy + xz * xz + yz * yz)
  const p = Math.sqrt(p2 / 6)
  if (p < 1e-15) return [q, q, q]
  const [a, b, c, d, e, f] = [(xx - q) / p, (yy - q) / p, (zz - q) / p, xy / p, xz / p, yz / p]
  const r = Math.min(1, Math.max(-1, (a * (b * c - f * f) - d * (d * c - f * e) + e * (d * f - b * e)) / 2))
  const angle = Math.acos(r) / 3
  const most = q + 2 * p * Math.cos(angle)
  const least = q + 2 * p * Math.cos(angle + (2 * Math.PI) / 3)
  return [most, 3 * q - most - least, least]
}

/**
 * Whether a thing stands in its node's own frame, or its place was worked into its vertices: its parts must be where those of the reference
 * come to be under the node's matrix.
 */
export function standsInFrame(model: ModelPrint, world: Matrix, reference: ModelPrint): boolean {
  let [near, far] = [0, 0]
  for (const part of model.parts) {
    const same = reference.parts.find(r => r.content === part.content) ?? reference.parts.find(r => r.name === part.name)
    if (!same) continue
    const [is, should] = [part.placed, moveMoments(same.placed, world)]
    const radius = shapeOf(should)?.radiusM ?? 0
    const apart = Math.hypot(...[0, 1, 2].map(k => is.first[k] / is.areaM2 - should.first[k] / should.areaM2))
    if (apart <= Math.max(radius * FRAME_SLACK, 1e-4)) near++
    else far++
  }
  // A part may have been moved; most have not.
  return near > 0 && near >= far
}

const FRAME_SLACK = 0.1

/** How far two shapes are apart whatever their size: the largest relative difference of their figures; 0 for the same. */
export function shapeDistance(a: Shape, b: Shape): number {
  const spreads = a.spreads.map((v, k) => Math.abs(v - b.spreads[k]))
  return Math.max(...spreads, Math.abs(Math.log(a.fullness / b.fullness)) / 2)
}
