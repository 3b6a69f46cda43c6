import { createFinding } from '../../findings/finding'
import type { EnvironmentCheck } from './environment-check'

const MOST_LEVELS = 256
const LEAST_PIXELS = 4096
/** Code 1 of sRGB is 1/3295 of white: 12 stops hold all that 8 bits can say. */
const WIDEST = 4096

/**
 * An 8-bit picture in a float file has at most 256 distinct values a channel, however large it is, and spans at most 12 stops. A
 * Radiance file of a plain sky may have as few values, but a sun puts it far beyond that span.
 */
export const checkFewLevels: EnvironmentCheck = ({ width, height, levels, lowest, highest }) =>
  levels <= MOST_LEVELS && width * height > LEAST_PIXELS && !(highest / lowest > WIDEST)
    ? [createFinding('fewLevels', { levels })]
    : []
