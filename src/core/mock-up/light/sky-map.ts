import { luminance } from '../../color/srgb'
import { createClearSky } from '../../environment/clear-sky'
import { computeHorizontalIrradiance } from '../../environment/irradiance'
import { softenKey } from '../../environment/soften-key'
import type { FloatImage } from '../../image/image'
import type { Sky } from '../scene/scene'
import type { Resources } from '../things/resources'
import { type SunPosition, sunPosition } from './sun-position'

/** Where the sun of a sky stands before it is turned, from the middle of the picture to the right; null where there is none. */
export const sunOfSky = (
  { clear }: Pick<Sky, 'clear'>,
  known: { azimuthDeg: number; elevationDeg: number } | null,
): SunPosition | null => (clear ? sunPosition(new Date(clear.at), clear.latitudeDeg, clear.longitudeDeg) : known)

const clearSkies = new Map<string, FloatImage>()
const MOST_KEPT = 8
const softened = new WeakMap<FloatImage, Map<string, FloatImage>>()

/**
 * What a sky lights with: its panorama, or a clear sky of its place and time; its sun as it is, softened or left out.
 * @param width of a clear sky that has to be worked out, in pixels
 * @returns undefined where its panorama is not there
 */
export function mapOfSky(
  sky: Pick<Sky, 'item' | 'clear' | 'sun'>,
  skies: Resources['skies'],
  width = 1024,
): FloatImage | undefined {
  const map = sky.clear ? clearSky(sky.clear, width) : sky.item ? skies.get(sky.item.inputKey) : undefined
  if (!map || sky.sun === 'asItIs') return map
  const known = softened.get(map) ?? new Map<string, FloatImage>()
  softened.set(map, known)
  let made = known.get(sky.sun)
  if (!made) {
    made = softenKey(map, sky.sun)
    known.set(sky.sun, made)
  }
  return made
}

function clearSky({ latitudeDeg, longitudeDeg, at, turbidity }: NonNullable<Sky['clear']>, width: number): FloatImage {
  const key = JSON.stringify([latitudeDeg, longitudeDeg, at, turbidity, width])
  const known = clearSkies.get(key)
  if (known) return known
  const { azimuthDeg, elevationDeg } = sunPosition(new Date(at), latitudeDeg, longitudeDeg)
  const made = createClearSky({ sunAzimuthDeg: azimuthDeg, sunElevationDeg: elevationDeg, turbidity }, width)
  // As bright as pictures of skies are: what is drawn with half floats cannot hold a sun in cd/m².
  const level = luminance(...computeHorizontalIrradiance(made)) / Math.PI
  if (level > 0) for (let k = 0; k < made.data.length; k++) made.data[k] /= level
  if (clearSkies.size >= MOST_KEPT) clearSkies.clear()
  clearSkies.set(key, made)
  return made
}
