import { createFinding } from '../../findings/finding'
import { measureLowFrequencies } from '../low-frequencies'
import { type MaterialCheck, mapOf } from '../material-subject'

/** A tenth of light more and less over the tile, and most of what changes at all; or more than surfaces have of themselves. */
const LEAST_AMPLITUDE = 0.1
const LEAST_SHARE = 0.4
const CERTAIN_AMPLITUDE = 0.18

/** Light that was not taken out of a colour map: it repeats with the tile as a checkerboard of bright and dark. */
export const checkBakedLight: MaterialCheck = subject => {
  const map = mapOf(subject, 'baseColor')
  if (!map || map.image.channels < 3) return []
  const { amplitude, share } = measureLowFrequencies(map.image)
  const isBaked = amplitude > CERTAIN_AMPLITUDE || (amplitude > LEAST_AMPLITUDE && share > LEAST_SHARE)
  return isBaked ? [createFinding('bakedLight', { amplitude, share }, map.path)] : []
}
