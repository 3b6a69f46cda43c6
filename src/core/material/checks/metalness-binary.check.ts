import { createFinding } from '../../findings/finding'
import { extractChannel } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

export const checkMetalnessBinary: MaterialCheck = subject => {
  const map = mapOf(subject, 'metalness')
  if (!map) return []
  const values = extractChannel(map.image, 0).data
  let between = 0
  for (const v of values) if (v > 0.1 && v < 0.9) between++
  const betweenShare = between / values.length
  return betweenShare > 0.1 ? [createFinding('metalnessNotBinary', { betweenShare }, map.path)] : []
}
