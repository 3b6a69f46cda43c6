/** An affine map of space: three rows of four numbers, applied to columns. Lengths keep their unit. */
export type Affine = readonly number[]

export const IDENTITY: Affine = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]

/** A turn about the vertical, counter-clockwise seen from above, after a scaling, and then a move. */
export function affineOf(offset: readonly number[], yawRad = 0, scale: number | readonly number[] = 1): Affine {
  const [sx, sy, sz] = typeof scale === 'number' ? [scale, scale, scale] : scale
  const [c, s] = [Math.cos(yawRad), Math.sin(yawRad)]
  return [c * sx, 0, s * sz, offset[0], 0, sy, 0, offset[1], -s * sx, 0, c * sz, offset[2]]
}

/** First `b`, then `a`. */
export function multiplyAffine(a: Affine, b: Affine): Affine {
  const out = new Array<number>(12)
  for (let i = 0; i < 3; i++)
    for (let j = 0; j < 4; j++) {
      const [p, q, r] = [a[i * 4], a[i * 4 + 1], a[i * 4 + 2]]
      out[i * 4 + j] = p * b[j] + q * b[4 + j] + r * b[8 + j] + (j === 3 ? a[i * 4 + 3] : 0)
    }
  return out
}

/** Negative where the map mirrors; the volume of what was a unit cube. */
export const determinantOf = (a: Affine): number =>
  a[0] * (a[5] * a[10] - a[6] * a[9]) - a[1] * (a[4] * a[10] - a[6] * a[8]) + a[2] * (a[4] * a[9] - a[5] * a[8])

/** The map back; null where there is none, since a direction is lost. */
export function invertAffine(a: Affine): Affine | null {
  const d = determinantOf(a)
  if (!Number.isFinite(1 / d)) return null
  const m = [
    (a[5] * a[10] - a[6] * a[9]) / d,
    (a[2] * a[9] - a[1] * a[10]) / d,
    (a[1] * a[6] - a[2] * a[5]) / d,
    (a[6] * a[8] - a[4] * a[10]) / d,
    (a[0] * a[10] - a[2] * a[8]) / d,
    (a[2] * a[4] - a[0] * a[6]) / d,
    (a[4] * a[9] - a[5] * a[8]) / d,
    (a[1] * a[8] - a[0] * a[9]) / d,
    (a[0] * a[5] - a[1] * a[4]) / d,
  ]
  if (!m.every(Number.isFinite)) return null
  const back = (row: number) => -(m[row * 3] * a[3] + m[row * 3 + 1] * a[7] + m[row * 3 + 2] * a[11])
  return [m[0], m[1], m[2], back(0), m[3], m[4], m[5], back(1), m[6], m[7], m[8], back(2)]
}

/** Moves the point at dst[at..at + 2] in place. */
export function movePointInPlace(a: Affine, dst: Float32Array | Float64Array | number[], at = 0): void {
  const [x, y, z] = [dst[at], dst[at + 1], dst[at + 2]]
  dst[at] = a[0] * x + a[1] * y + a[2] * z + a[3]
  dst[at + 1] = a[4] * x + a[5] * y + a[6] * z + a[7]
  dst[at + 2] = a[8] * x + a[9] * y + a[10] * z + a[11]
}

/** The box around a box that has been moved, min xyz and max xyz. */
export function moveBox(a: Affine, box: ArrayLike<number>): Float64Array {
  const out = new Float64Array(6)
  for (let i = 0; i < 3; i++) {
    let [low, high] = [a[i * 4 + 3], a[i * 4 + 3]]
    for (let j = 0; j < 3; j++) {
      const [p, q] = [a[i * 4 + j] * box[j], a[i * 4 + j] * box[3 + j]]
      low += Math.min(p, q)
      high += Math.max(p, q)
    }
    out[i] = low
    out[3 + i] = high
  }
  return out
}
