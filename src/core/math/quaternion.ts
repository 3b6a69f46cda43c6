import { toRadians } from './angles'
import { cross, normalize, type Vec3 } from './vec3'

/** A rotation: x, y, z, w, of length 1. */
export type Quaternion = [number, number, number, number]

export const NO_TURN: Quaternion = [0, 0, 0, 1]

/** About an axis of any length, counter-clockwise as seen from its tip. */
export function turnAbout(axis: Vec3, degrees: number): Quaternion {
  const half = toRadians(degrees) / 2
  const [x, y, z] = normalize(axis)
  const s = Math.sin(half)
  return [x * s, y * s, z * s, Math.cos(half)]
}

/** The turn `b`, then the turn `a`. */
export function multiply(a: Quaternion, b: Quaternion): Quaternion {
  const [ax, ay, az, aw] = a
  const [bx, by, bz, bw] = b
  return normalizeTurn([
    aw * bx + ax * bw + ay * bz - az * by,
    aw * by - ax * bz + ay * bw + az * bx,
    aw * bz + ax * by - ay * bx + az * bw,
    aw * bw - ax * bx - ay * by - az * bz,
  ])
}

export function normalizeTurn([x, y, z, w]: Quaternion): Quaternion {
  const n = Math.hypot(x, y, z, w) || 1
  return [x / n, y / n, z / n, w / n]
}

/** A vector turned. */
export function rotate([x, y, z, w]: Quaternion, v: Vec3): Vec3 {
  const axis: Vec3 = [x, y, z]
  const t = cross(axis, v)
  const u: Vec3 = [2 * t[0], 2 * t[1], 2 * t[2]]
  const c = cross(axis, u)
  return [v[0] + w * u[0] + c[0], v[1] + w * u[1] + c[1], v[2] + w * u[2] + c[2]]
}
