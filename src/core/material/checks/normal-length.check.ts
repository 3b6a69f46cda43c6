import { createFinding } from '../../findings/finding'
import { type MaterialCheck, mapOf } from '../material-subject'
import { measureNormalLengths } from '../normal-map'

export const checkNormalLength: MaterialCheck = subject => {
  const map = mapOf(subject, 'normal')
  if (!map || map.image.channels < 3) return []
  const { offLengthShare, rmsSlope } = measureNormalLengths(map.image)
  if (offLengthShare > 0.02) return [createFinding('normalNotUnitLength', { offLengthShare }, map.path)]
  return rmsSlope < 0.004 ? [createFinding('normalFlat', { rmsSlope }, map.path)] : []
}
