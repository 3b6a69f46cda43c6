import { createFinding } from '../../findings/finding'
import { toRadians } from '../../math/angles'
import type { EnvironmentCheck } from './environment-check'

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
export const checkSunClipped: EnvironmentCheck = ({ setting, sky, medianLuminance, horizontalIrradiance, plateau }) => {
  // Without its disc a clear day may pass for twilight; twilight itself has no flat spot.
  const daylight = (setting === 'exterior' || setting === 'unsure') && sky !== 'night' && sky !== 'none'
  if (!daylight || !(medianLuminance > 0)) return []
  const spot = plateau
  if (!spot || spot.pixels < LEAST_PIXELS || spot.elevationDeg < 3 || spot.diameterDeg > MOST_DIAMETER_DEG) return []
  if (spot.concentration < Math.cos(toRadians(spot.diameterDeg)) || spot.surround > 0.9) return []
  const aboveMedianStops = Math.log2(spot.luminance / medianLuminance)
  if (aboveMedianStops < LEAST_ABOVE_STOPS) return []
  if (aboveMedianStops > WHOLE_ABOVE_STOPS && spot.diameterDeg < SUN_DEG) return []
  const given = spot.luminance * spot.solidAngle
  const fill = Math.max(horizontalIrradiance - given * Math.sin(toRadians(spot.elevationDeg)), horizontalIrradiance * 0.05)
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
