import { toDegrees, toRadians } from '../../math/angles'

export interface SunPosition {
  /** Clockwise from north. */
  azimuthDeg: number
  /** Over the horizon as it is seen, refraction of the standard atmosphere in it. */
  elevationDeg: number
}

const MS_A_DAY = 86_400_000
const J2000 = 2_451_545

const wrap = (degrees: number): number => ((degrees % 360) + 360) % 360

/**
 * Where the sun stands. Meeus, Astronomical Algorithms (1998), chapter 25 (lower accuracy), 12 (sidereal time), 13 (horizon), and Bennett's
 * refraction as inverted by Saemundsson (chapter 16). Good to about 0.01 degrees between 1950 and 2050, but for refraction within a degree
 * of the horizon, which depends on the weather.
 * @param time in UTC; the difference to dynamical time, about a minute, moves the sun by 0.0007 degrees and is left out
 * @param latitudeDeg north positive @param longitudeDeg east positive
 * @throws RangeError for what is no place or no time
 */
export function sunPosition(time: Date, latitudeDeg: number, longitudeDeg: number): SunPosition {
  if (!(Math.abs(latitudeDeg) <= 90 && Math.abs(longitudeDeg) <= 180)) throw new RangeError('this is no place on the earth')
  const days = time.getTime() / MS_A_DAY + 2_440_587.5 - J2000
  if (!Number.isFinite(days)) throw new RangeError('this is no time')
  const t = days / 36_525
  const meanLongitude = 280.46646 + t * (36_000.76983 + t * 0.0003032)
  const anomaly = toRadians(357.52911 + t * (35_999.05029 - t * 0.0001537))
  const centre =
    (1.914602 - t * (0.004817 + t * 0.000014)) * Math.sin(anomaly) +
    (0.019993 - t * 0.000101) * Math.sin(2 * anomaly) +
    0.000289 * Math.sin(3 * anomaly)
  const node = toRadians(125.04 - 1934.136 * t)
  const longitude = toRadians(meanLongitude + centre - 0.00569 - 0.00478 * Math.sin(node))
  const obliquity = toRadians(23.4392911 - t * 0.0130042 + 0.00256 * Math.cos(node))
  const rightAscension = Math.atan2(Math.cos(obliquity) * Math.sin(longitude), Math.cos(longitude))
  const declination = Math.asin(Math.sin(obliquity) * Math.sin(longitude))
  const siderealDeg = 280.46061837 + 360.98564736629 * days + 0.000387933 * t * t - 0.0048 * Math.sin(node) * Math.cos(obliquity)
  const hour = toRadians(siderealDeg + longitudeDeg) - rightAscension
  const latitude = toRadians(latitudeDeg)
  const elevation = Math.asin(
    Math.sin(latitude) * Math.sin(declination) + Math.cos(latitude) * Math.cos(declination) * Math.cos(hour),
  )
  const fromSouth = Math.atan2(Math.sin(hour), Math.cos(hour) * Math.sin(latitude) - Math.tan(declination) * Math.cos(latitude))
  const elevationDeg = toDegrees(elevation)
  return { azimuthDeg: wrap(toDegrees(fromSouth) + 180), elevationDeg: elevationDeg + refractionDeg(elevationDeg) }
}

/** Below this the sun is not seen, and nothing is refracted. */
const UNSEEN_DEG = -0.8333

/** By how much the air lifts what stands at a true elevation, at 1010 hPa and 10 degrees Celsius. */
function refractionDeg(elevationDeg: number): number {
  if (elevationDeg < UNSEEN_DEG) return 0
  return 1.02 / Math.tan(toRadians(elevationDeg + 10.3 / (elevationDeg + 5.11))) / 60
}

/**
 * Where a light has to stand so that the shadow of a point falls there: the direction from the shadow through the point, as azimuth and
 * elevation. Null where the point lies on the shadow, or under it.
 * @param northDeg the direction of north, clockwise from -z as seen from above
 */
export function lightForShadow(
  tip: readonly [number, number, number],
  shadow: readonly [number, number, number],
  northDeg = 0,
): SunPosition | null {
  const [x, y, z] = [tip[0] - shadow[0], tip[1] - shadow[1], tip[2] - shadow[2]]
  const flat = Math.hypot(x, z)
  if (!(y > 0)) return null
  return { azimuthDeg: wrap(toDegrees(Math.atan2(x, -z)) - northDeg), elevationDeg: toDegrees(Math.atan2(y, flat)) }
}
