import { createFinding } from '../../findings/finding'
import type { EnvironmentCheck } from './environment-check'

/** Of all light: below this nobody sees that it is missing. */
const MOST_NEGATIVE = 5e-3

/**
 * What light cannot be. A compression that rings leaves a little below zero beside every lamp: that is told, and no more; a pixel that is
 * no number, or a hole deep enough to darken something, has to be fixed.
 */
export const checkBadPixels: EnvironmentCheck = ({ negativePixels, notFinitePixels, negativeFlux, meanLuminance }) => {
  const count = negativePixels + notFinitePixels
  if (count === 0) return []
  const share = negativeFlux / (4 * Math.PI * Math.max(meanLuminance, 1e-12))
  return notFinitePixels === 0 && share < MOST_NEGATIVE
    ? [createFinding('ringingPixels', { count, share })]
    : [createFinding('badPixels', { count, negative: negativePixels })]
}
