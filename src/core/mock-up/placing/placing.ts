import { type Affine, moveBox } from '../../math/affine'
import { type Quaternion, rotate } from '../../math/quaternion'
import type { Vec3 } from '../../math/vec3'
import type { Piece } from '../scene/scene'
import type { Box } from './snapping'

/** Where something of its own space comes to stand. */
export function affineOfTurn(position: Vec3, turn: Quaternion, scale: number): Affine {
  const [x, y, z] = [rotate(turn, [scale, 0, 0]), rotate(turn, [0, scale, 0]), rotate(turn, [0, 0, scale])]
  return [0, 1, 2].flatMap(k => [x[k], y[k], z[k], position[k]])
}

type Standing = Pick<Piece, 'position' | 'turn' | 'scale'>
const places = new WeakMap<Standing, Affine>()

/** Where a piece stands, worked out once of each: a piece that is altered is another one. */
export function placeOfPiece(piece: Standing): Affine {
  let place = places.get(piece)
  if (!place) {
    place = affineOfTurn(piece.position, piece.turn as Quaternion, piece.scale)
    places.set(piece, place)
  }
  return place
}

/** The box along the axes around a box that has been placed. */
export function placeBox(to: Affine, { min, max }: Box): Box {
  const [x0, y0, z0, x1, y1, z1] = moveBox(to, [...min, ...max])
  return { min: [x0, y0, z0], max: [x1, y1, z1] }
}

/** Circles on the ground around what is placed, for plants to keep out of. */
export const standingCircle = ({ min, max }: Box): { x: number; z: number; radiusM: number } => ({
  x: (min[0] + max[0]) / 2,
  z: (min[2] + max[2]) / 2,
  radiusM: Math.min(max[0] - min[0], max[2] - min[2]) / 2,
})

/** Where something placed disagrees with what is about it. */
export interface Misplacement {
  id: string
  kind: 'floats' | 'sinks' | 'overlaps'
  /** Metres: over the floor, below it, or of the smallest overlap of the boxes. */
  byM: number
  other?: string
}

const TOLERANCE_M = 0.005

/**
 * What floats above the floor and everything else, sinks below it, or reaches into another. By boxes along the axes: two chairs pushed under a
 * table overlap by their boxes though not by their legs, so this is asked for, never enforced.
 */
export function findMisplaced(boxes: ReadonlyMap<string, Box>, floorM = 0): Misplacement[] {
  const found: Misplacement[] = []
  const entries = [...boxes]
  entries.forEach(([id, box], i) => {
    if (box.min[1] < floorM - TOLERANCE_M) found.push({ id, kind: 'sinks', byM: floorM - box.min[1] })
    else if (box.min[1] > floorM + TOLERANCE_M) {
      const under = entries.filter(([other, b]) => other !== id && overlapOf(box, b, [0, 2]) > 0 && b.min[1] < box.min[1])
      const support = Math.max(floorM, ...under.map(([, b]) => b.max[1]))
      if (box.min[1] > support + TOLERANCE_M) found.push({ id, kind: 'floats', byM: box.min[1] - support })
    }
    for (const [other, b] of entries.slice(i + 1)) {
      const byM = overlapOf(box, b, [0, 1, 2])
      if (byM > TOLERANCE_M) found.push({ id, kind: 'overlaps', byM, other })
    }
  })
  return found
}

const overlapOf = (a: Box, b: Box, axes: readonly number[]): number =>
  Math.min(...axes.map(k => Math.min(a.max[k], b.max[k]) - Math.max(a.min[k], b.min[k])))
