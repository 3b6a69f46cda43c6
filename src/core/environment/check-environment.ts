import { luminance } from '../color/srgb'
import { createFinding, type Finding } from '../findings/finding'
import type { FloatImage } from '../image/image'
import { percentile } from '../math/statistics'
import type { KeyLight } from './key-light'

/** What an environment check looks at: the map as delivered and what analysis already found. */
export interface EnvironmentSubject {
  map: FloatImage
  key: KeyLight | null
  sunPresent: boolean
  badPixelCount: number
}

export type EnvironmentCheck = (subject: EnvironmentSubject) => Finding[]

const checkAspect: EnvironmentCheck = ({ map }) =>
  map.width === map.height * 2
    ? []
    : [createFinding('notTwoToOne', { width: map.width, height: map.height, aspect: map.width / map.height })]

const checkPixels: EnvironmentCheck = ({ badPixelCount }) =>
  badPixelCount > 0 ? [createFinding('badPixels', { count: badPixelCount })] : []

/**
 * An 8-bit picture in a float file has at most 256 distinct values a channel, however large it is, and spans at most 12 stops (code 1
 * of sRGB is 1/3295 of white). A Radiance file of a plain sky may have as few values, but a sun puts it far beyond that span.
 */
const checkLevels: EnvironmentCheck = ({ map }) => {
  const levels = new Set<number>()
  let low = Number.POSITIVE_INFINITY
  let high = 0
  for (let i = 1; i < map.data.length; i += map.channels) {
    const v = map.data[i]
    if (levels.size <= 256) levels.add(v)
    if (v > 0 && v < low) low = v
    if (v > high) high = v
  }
  const disguised = levels.size <= 256 && map.width * map.height > 4096 && !(high / low > 4096)
  return disguised ? [createFinding('fewLevels', { levels: levels.size })] : []
}

/** The step across the left and right edges against the steps between neighbouring columns inside. */
const checkSeam: EnvironmentCheck = ({ map }) => {
  const { width, height, channels, data } = map
  const stepBetween = (left: number, right: number) => {
    let sum = 0
    for (let j = 0; j < height; j++) {
      const a = (j * width + left) * channels
      const b = (j * width + right) * channels
      sum += Math.abs(
        Math.log2(luminance(data[a], data[a + 1], data[a + 2]) + 1e-6) -
          Math.log2(luminance(data[b], data[b + 1], data[b + 2]) + 1e-6),
      )
    }
    return sum / height
  }
  const interior = Array.from({ length: Math.min(128, width - 1) }, (_, k) => {
    const column = Math.floor((k * (width - 1)) / Math.min(128, width - 1))
    return stepBetween(column, column + 1)
  })
  const wrap = stepBetween(width - 1, 0)
  const high = percentile(interior, 0.99)
  return wrap > high * 3 + 0.02 ? [createFinding('environmentSeam', { stepStops: wrap, interiorStepStops: high })] : []
}

/**
 * The sun is about 16 stops brighter than the clear sky around it; what a capture lost shows as a plateau.
 * Stops missing: how much brighter the region would have to be for a key to fill of 4 on a facing card.
 */
const checkSunClipped: EnvironmentCheck = ({ key, sunPresent }) => {
  if (!key || !sunPresent || key.elevationDeg < 10) return []
  const clipped = key.keyToFill < 1.5 && key.plateauShare > 0.2
  return clipped
    ? [
        createFinding('sunClipped', {
          keyToFill: key.keyToFill,
          plateauShare: key.plateauShare,
          stopsMissing: Math.log2(4 / key.keyToFill),
        }),
      ]
    : []
}

/** In the order in which a person would want to read them. */
export const ENVIRONMENT_CHECKS: readonly EnvironmentCheck[] = [checkAspect, checkPixels, checkLevels, checkSeam, checkSunClipped]
