import type { Image } from '../image/image'
import { findNormalHandedness } from './normal-map'

const SURE = 0.3

/** Which way a normal map's green points: pixels decide when they are sure; else the name; else the house convention, up. */
export function decideHandedness(image: Image, hint: 'openGl' | 'directX' | null): 'openGl' | 'directX' {
  const verdict = image.channels >= 3 ? findNormalHandedness(image) : null
  return verdict && verdict.handedness !== 'unsure' && verdict.confidence > SURE ? verdict.handedness : (hint ?? 'openGl')
}
