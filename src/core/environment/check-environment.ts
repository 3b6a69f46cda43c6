import { luminance } from '../color/srgb'
import { createFinding, type Finding } from '../findings/finding'
import type { FloatImage } from '../image/image'
import { percentile } from '../math/statistics'
import type { Setting, Sky } from './classify'
import { measurePlateau } from './plateau'
import { toRadians } from './sphere'

/** What an environment check looks at: the map as delivered and what analysis already found. */
export interface EnvironmentSubject {
  map: FloatImage
  setting: Setting
  sky: Sky
  medianLuminance: number
  /** Irradiance on a horizontal card, as luminance. */
  meanIrradiance: number
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

/** What a sun high in a clear sky gives a card that faces it, over what the rest of the sky gives. */
const SUN_KEY_TO_FILL = 4
const LEAST_PIXELS = 3
const MOST_DIAMETER_DEG = 25
/** A bright patch of cloud is two stops above the sky, what is left of a sun more. */
const LEAST_ABOVE_STOPS = 2.6
/** So bright, and no wider than the sun, it is the sun itself, whose disc is even as well. */
const WHOLE_ABOVE_STOPS = 13
const SUN_DEG = 0.6

/**
 * A flat spot at the maximum in a daylight sky, where a sun should be. The disc is 14 to 17 stops brighter than the sky about it; a spot
 * that is several stops short of what a sun gives was cut off. A cover of cloud levels out as well, but its light does not fall off
 * beside the spot.
 */
const checkSunClipped: EnvironmentCheck = ({ map, setting, sky, medianLuminance, meanIrradiance }) => {
  const daylight = (setting === 'exterior' || setting === 'unsure') && sky !== 'night' && sky !== 'twilight' && sky !== 'none'
  if (!daylight || !(medianLuminance > 0)) return []
  const spot = measurePlateau(map)
  if (!spot || spot.pixels < LEAST_PIXELS || spot.elevationDeg < 3 || spot.diameterDeg > MOST_DIAMETER_DEG) return []
  if (spot.concentration < Math.cos(toRadians(spot.diameterDeg)) || spot.surround > 0.9) return []
  const aboveMedianStops = Math.log2(spot.luminance / medianLuminance)
  if (aboveMedianStops < LEAST_ABOVE_STOPS) return []
  if (aboveMedianStops > WHOLE_ABOVE_STOPS && spot.diameterDeg < SUN_DEG) return []
  const given = spot.luminance * spot.solidAngle
  const fill = Math.max(meanIrradiance - given * Math.sin(toRadians(spot.elevationDeg)), meanIrradiance * 0.05)
  const stopsMissing = Math.log2((SUN_KEY_TO_FILL * fill) / given)
  return stopsMissing > 2
    ? [
        createFinding('sunClipped', {
          plateauPixels: spot.pixels,
          plateauDeg: spot.diameterDeg,
          aboveMedianStops,
          stopsMissing,
        }),
      ]
    : []
}

/** In the order in which a person would want to read them. */
export const ENVIRONMENT_CHECKS: readonly EnvironmentCheck[] = [checkAspect, checkPixels, checkLevels, checkSeam, checkSunClipped]
