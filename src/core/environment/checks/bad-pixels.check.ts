import { createFinding } from '../../findings/finding'
import type { EnvironmentCheck } from './environment-check'

export const checkBadPixels: EnvironmentCheck = ({ negativePixels, notFinitePixels }) =>
  negativePixels + notFinitePixels > 0
    ? [createFinding('badPixels', { count: negativePixels + notFinitePixels, negative: negativePixels })]
    : []
