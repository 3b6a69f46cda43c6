import { createFinding } from '../../findings/finding'
import { type Bounds, largestExtent } from '../mesh'
import type { Model } from '../model'
import type { ModelCheck } from './model-check'

/** What stands on the floor is within this share of the height. */
const FOOT_SHARE = 0.05

/** How far sideways the origin is from the middle of the whole, or of what stands on the floor: of a lamp with an arm, its foot. */
function sidewaysOff({ parts }: Model, { min, max }: Bounds): number {
  const floor = min[1] + (max[1] - min[1]) * FOOT_SHARE
  const foot = { x0: Infinity, x1: -Infinity, z0: Infinity, z1: -Infinity }
  for (const { positions } of parts.map(p => p.mesh))
    for (let i = 0; i < positions.length; i += 3) {
      if (positions[i + 1] > floor) continue
      foot.x0 = Math.min(foot.x0, positions[i])
      foot.x1 = Math.max(foot.x1, positions[i])
      foot.z0 = Math.min(foot.z0, positions[i + 2])
      foot.z1 = Math.max(foot.z1, positions[i + 2])
    }
  return Math.min(
    Math.hypot((min[0] + max[0]) / 2, (min[2] + max[2]) / 2),
    Math.hypot((foot.x0 + foot.x1) / 2, (foot.z0 + foot.z1) / 2),
  )
}

/** The origin belongs at the centre of the base; a fifth of the size away is more than modelling slack. */
export const checkPivot: ModelCheck = ({ model, bounds }) => {
  const size = largestExtent(bounds)
  const sidewaysM = sidewaysOff(model, bounds)
  const away = Math.max(sidewaysM, Math.abs(bounds.min[1]))
  return size > 0 && away > size * 0.2 ? [createFinding('pivotOffBase', { sidewaysM, belowM: bounds.min[1], sizeM: size })] : []
}
