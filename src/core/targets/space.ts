import type { LengthUnit, UpAxis } from '../hand-over/profile'
import type { Vec3 } from '../math/vec3'

/** What a file counts lengths in, and which of its axes points up. Ours: metres, y. */
export interface FileSpace {
  unit: LengthUnit
  upAxis: UpAxis
}

export const METRES_Y_UP: FileSpace = { unit: 'm', upAxis: 'y' }

export const METRES_A_UNIT: Record<LengthUnit, number> = { m: 1, cm: 0.01, mm: 0.001 }

/** A direction of ours in a file's axes. */
export const turnInto = ({ upAxis }: FileSpace, [x, y, z]: Vec3): Vec3 => (upAxis === 'y' ? [x, y, z] : [x, -z, y])

/** A point of ours, in metres, in a file's axes and unit. */
export function placeInto(space: FileSpace, [x, y, z]: Vec3): Vec3 {
  const scale = 1 / METRES_A_UNIT[space.unit]
  return turnInto(space, [x * scale, y * scale, z * scale])
}
