import { createFinding } from '../../findings/finding'
import { shareBetween } from '../../image/image'
import { type MaterialCheck, mapOf } from '../material-subject'

export const checkMetalnessBinary: MaterialCheck = subject => {
  const map = mapOf(subject, 'metalness')
  if (!map) return []
  const betweenShare = shareBetween(map.image, 0, 0.1, 0.9)
  return betweenShare > 0.1 ? [createFinding('metalnessNotBinary', { betweenShare }, map.path)] : []
}
