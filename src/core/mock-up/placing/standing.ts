import type { Piece } from '../scene/scene'
import type { Box } from './snapping'

const NEAR_M = 0.02
/** How far the vertical of something upright may lean, as the sine of half its angle. */
const UPRIGHT = 0.02

/**
 * Pieces that stand upright on something level: at one of these heights, or wholly on top of another.
 * @param boxes of pieces along the axes of the scene
 * @param levelsM heights of what they may stand on besides each other
 */
export function listStanding(
  pieces: Readonly<Record<string, Pick<Piece, 'turn'>>>,
  boxes: ReadonlyMap<string, Box>,
  levelsM: readonly number[],
): Set<string> {
  const all = [...boxes]
  const isOn = (level: number, box: Box) => Math.abs(box.min[1] - level) < NEAR_M
  const isWithin = (a: Box, b: Box) =>
    a.min[0] >= b.min[0] && a.max[0] <= b.max[0] && a.min[2] >= b.min[2] && a.max[2] <= b.max[2]
  return new Set(
    all
      .filter(([id, box]) => {
        const [x, , z] = pieces[id]?.turn ?? [1, 0, 0, 0]
        if (Math.hypot(x, z) > UPRIGHT) return false
        if (levelsM.some(level => isOn(level, box))) return true
        return all.some(([other, b]) => other !== id && isOn(b.max[1], box) && isWithin(box, b))
      })
      .map(([id]) => id),
  )
}
