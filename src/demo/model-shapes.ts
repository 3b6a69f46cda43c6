import { type Mesh, mergeMeshes, placeMesh } from '#core/geometry/mesh'
import { createBox, createTube } from '#core/geometry/shapes'
import type { Vec3 } from '#core/math/vec3'

/** Small shapes that the generated models share. Metres. */

export const at = (mesh: Mesh, x: number, y: number, z: number, yaw = 0): Mesh => placeMesh(mesh, [x, y, z], yaw)

export const rod = (from: Vec3, to: Vec3, radius: number, segments = 14): Mesh =>
  createTube([from, from, to, to], [0.0001, radius, radius, 0.0001], segments)

export const legs = (x: number, z: number, height: number, splay: number, radius: number): Mesh =>
  mergeMeshes(
    [
      [-1, -1],
      [1, -1],
      [-1, 1],
      [1, 1],
    ].map(([sx, sz]) => rod([sx * (x + splay), 0, sz * (z + splay)], [sx * x, height, sz * z], radius)),
  )

/** A soft cushion: a box with generous rounding. */
export const cushion = (w: number, h: number, d: number): Mesh => createBox(w, h, d, Math.min(w, h, d) * 0.38)

export function curve(points: readonly Vec3[], steps: number): Vec3[] {
  // Catmull–Rom through the points.
  const out: Vec3[] = []
  for (let i = 0; i + 1 < points.length; i++) {
    const p = [points[Math.max(0, i - 1)], points[i], points[i + 1], points[Math.min(points.length - 1, i + 2)]]
    for (let k = 0; k < steps; k++) {
      const t = k / steps
      out.push(
        [0, 1, 2].map(
          c =>
            0.5 *
            (2 * p[1][c] +
              (p[2][c] - p[0][c]) * t +
              (2 * p[0][c] - 5 * p[1][c] + 4 * p[2][c] - p[3][c]) * t * t +
              (3 * p[1][c] - p[0][c] - 3 * p[2][c] + p[3][c]) * t * t * t),
        ) as Vec3,
      )
    }
  }
  out.push(points[points.length - 1])
  return out
}

export function spread(radii: readonly number[], steps: number): number[] {
  const out: number[] = []
  for (let i = 0; i + 1 < radii.length; i++)
    for (let k = 0; k < steps; k++) out.push(radii[i] + ((radii[i + 1] - radii[i]) * k) / steps)
  out.push(radii[radii.length - 1])
  return out
}
