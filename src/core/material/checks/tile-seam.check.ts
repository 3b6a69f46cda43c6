import { createFinding } from '../../findings/finding'
import { findSeam } from '../../image/tile-seam'
import { type MaterialCheck, mapOf } from '../material-subject'

/** A tile's seam: what is laid edge to edge must not show where. */
export const checkTileSeam: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor') ?? mapOf(subject, 'height')
  if (!map) return []
  return (['x', 'y'] as const).flatMap(axis => {
    const { wrapStep, interiorStep, isSeen } = findSeam(map.image, axis)
    return isSeen ? [createFinding('tileSeam', { axis, wrapStep, interiorStep }, map.path)] : []
  })
}
