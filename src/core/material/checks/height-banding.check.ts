import { createFinding } from '../../findings/finding'
import { type MaterialCheck, mapOf } from '../material-subject'

/** A height map with fewer than 2,000 levels over its range shows steps when displaced. */
export const checkHeightBanding: MaterialCheck = subject => {
  const map = mapOf(subject, 'height')
  if (!map) return []
  const levels = new Set<number>()
  const { image } = map
  for (let i = 0; i < image.data.length && levels.size < 2000; i += image.channels) levels.add(image.data[i])
  const enough = levels.size >= Math.min(2000, (image.width * image.height) / 8)
  return enough ? [] : [createFinding('heightBanding', { levels: levels.size, bitsPerChannel: map.bitsPerChannel }, map.path)]
}
