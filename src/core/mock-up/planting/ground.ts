import type { Mesh } from '../../geometry/mesh'
import { toDegrees } from '../../math/angles'
import type { Planting, Scene } from '../scene/scene'
import { listStageParts } from '../stage-model/stage-of-model'
import type { Resources } from '../things/resources'

/** What lies at a place on the ground: how high, and how steep. */
export interface GroundSpot {
  y: number
  steepDeg: number
}
/** Null where there is no ground. */
export type GroundAt = (x: number, z: number) => GroundSpot | null

/** Triangles of a cell, about. */
const IN_CELL = 2
const MOST_CELLS = 1 << 20

/** The highest surface that looks up, at any place; metres, in the space of the meshes. */
export function createGround(meshes: readonly Pick<Mesh, 'positions' | 'indices'>[]): GroundAt {
  const corners: number[] = []
  for (const { positions: p, indices } of meshes)
    for (let i = 0; i < indices.length; i += 3) {
      const [a, b, c] = [indices[i] * 3, indices[i + 1] * 3, indices[i + 2] * 3]
      // Seen from above counter-clockwise: it looks up.
      const twice = (p[c] - p[a]) * (p[b + 2] - p[a + 2]) - (p[b] - p[a]) * (p[c + 2] - p[a + 2])
      if (twice > 0) corners.push(p[a], p[a + 1], p[a + 2], p[b], p[b + 1], p[b + 2], p[c], p[c + 1], p[c + 2])
    }
  const count = corners.length / 9
  if (count === 0) return () => null
  const [low, high] = boundsOnGround(corners)
  const side = Math.max(1, Math.min(Math.floor(Math.sqrt(count / IN_CELL)), Math.floor(Math.sqrt(MOST_CELLS))))
  const cellOf = (v: number, k: 0 | 1) =>
    Math.min(side - 1, Math.max(0, Math.floor(((v - low[k]) / (high[k] - low[k] || 1)) * side)))
  const cells: number[][] = Array.from({ length: side * side }, () => [])
  for (let t = 0; t < count; t++) {
    const xs = [corners[t * 9], corners[t * 9 + 3], corners[t * 9 + 6]]
    const zs = [corners[t * 9 + 2], corners[t * 9 + 5], corners[t * 9 + 8]]
    const [x0, x1] = [cellOf(Math.min(...xs), 0), cellOf(Math.max(...xs), 0)]
    const [z0, z1] = [cellOf(Math.min(...zs), 1), cellOf(Math.max(...zs), 1)]
    for (let z = z0; z <= z1; z++) for (let x = x0; x <= x1; x++) cells[z * side + x].push(t)
  }
  return (x, z) => {
    if (x < low[0] || x > high[0] || z < low[1] || z > high[1]) return null
    let best: GroundSpot | null = null
    for (const t of cells[cellOf(z, 1) * side + cellOf(x, 0)]) {
      const spot = spotOn(corners, t * 9, x, z)
      if (spot && (!best || spot.y > best.y)) best = spot
    }
    return best
  }
}

function boundsOnGround(corners: readonly number[]): [[number, number], [number, number]] {
  const low: [number, number] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY]
  const high: [number, number] = [Number.NEGATIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (let i = 0; i < corners.length; i += 3)
    for (const k of [0, 1] as const) {
      const v = corners[i + k * 2]
      low[k] = Math.min(low[k], v)
      high[k] = Math.max(high[k], v)
    }
  return [low, high]
}

/** A hair beyond its edges, so that nothing falls between two triangles. */
const EDGE = -1e-7

function spotOn(p: readonly number[], a: number, x: number, z: number): GroundSpot | null {
  const [b, c] = [a + 3, a + 6]
  const [ux, uy, uz] = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]]
  const [vx, vy, vz] = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]]
  const whole = ux * vz - vx * uz
  const [dx, dz] = [x - p[a], z - p[a + 2]]
  const s = (dx * vz - vx * dz) / whole
  const t = (ux * dz - dx * uz) / whole
  if (!(s >= EDGE && t >= EDGE && s + t <= 1 - EDGE)) return null
  const [nx, ny, nz] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  return { y: p[a + 1] + s * uy + t * vy, steepDeg: toDegrees(Math.acos(Math.min(1, Math.abs(ny) / Math.hypot(nx, ny, nz)))) }
}

/** The meshes of a stage that a planting grows on; none where its ground is level. */
export const meshesUnder = (
  { stage }: Pick<Scene, 'stage'>,
  { on = [] }: Pick<Planting, 'on'>,
  { models }: Pick<Resources<unknown>, 'models'>,
): Mesh[] =>
  stage.kind === 'model' && on.length > 0
    ? listStageParts(stage, models).flatMap(({ name, mesh }) => (on.includes(name) ? [mesh] : []))
    : []
