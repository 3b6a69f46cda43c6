import { createFloatImage, type FloatImage } from '../image/image'
import { toRadians } from '../math/angles'
import { dot, type Vec3 } from '../math/vec3'
import { columnAzimuth, directionOf, rowElevation, rowSolidAngle } from './sphere'

export interface ClearSky {
  /** Clockwise from the middle of the picture. */
  sunAzimuthDeg: number
  sunElevationDeg: number
  /** Haze: 2 is very clear, 6 is dull. */
  turbidity: number
}

/** Of the sun as it is seen from the earth. */
const SUN_RADIUS_RAD = toRadians(0.2666)
/** Under the horizon lies even ground of this reflectance. */
const GROUND = 0.2
/** Twilight is not told: a sun that is lower lights as one at the horizon does, less and less until it is night. */
const LOWEST_DEG = 0.5
const NIGHT_DEG = -6

/**
 * Illuminance from a clear sky on level ground without the sun, and from the sun on a plane that faces it, in lx. Gillette, Pierpoint &
 * Treado (1984), as in IES RP-21 (clear sky: A 0.8, B 15.5, C 0.5 klx; extinction 0.21; solar constant 127.5 klx).
 */
export function clearSkyIlluminance(sunElevationDeg: number): { skyLx: number; sunLx: number } {
  if (sunElevationDeg <= NIGHT_DEG) return { skyLx: 0, sunLx: 0 }
  const sine = Math.sin(toRadians(Math.max(LOWEST_DEG, sunElevationDeg)))
  const dusk = Math.min(1, (sunElevationDeg - NIGHT_DEG) / (LOWEST_DEG - NIGHT_DEG)) ** 2
  return {
    skyLx: (800 + 15_500 * Math.sqrt(sine)) * dusk,
    sunLx: sunElevationDeg < -0.3 ? 0 : 127_500 * Math.exp(-0.21 / sine),
  }
}

/** Luminance against the zenith's. CIE S 011 (2003), type 12: the standard clear sky of low turbidity. */
function relativeLuminance(elevationRad: number, toSunRad: number): number {
  const gradation = 1 - Math.exp(-0.32 / Math.max(0.01, Math.sin(elevationRad)))
  const indicatrix = 1 + 10 * (Math.exp(-3 * toSunRad) - Math.exp((-3 * Math.PI) / 2)) + 0.45 * Math.cos(toSunRad) ** 2
  return gradation * indicatrix
}

/** Coefficients of the chromaticities of the sky by turbidity. Preetham, Shirley & Smits (1999), appendix A.2. */
const PEREZ_X = [
  [-0.0193, -0.2592],
  [-0.0665, 0.0008],
  [-0.0004, 0.2125],
  [-0.0641, -0.8989],
  [-0.0033, 0.0452],
] as const
const PEREZ_Y = [
  [-0.0167, -0.2608],
  [-0.095, 0.0092],
  [-0.0079, 0.2102],
  [-0.0441, -1.6537],
  [-0.0109, 0.0529],
] as const
const ZENITH_X = [
  [0.00166, -0.00375, 0.00209, 0],
  [-0.02903, 0.06377, -0.03202, 0.00394],
  [0.11693, -0.21196, 0.06052, 0.25886],
] as const
const ZENITH_Y = [
  [0.00275, -0.0061, 0.00317, 0],
  [-0.04214, 0.0897, -0.04153, 0.00516],
  [0.15346, -0.26756, 0.0667, 0.26688],
] as const

type Perez = readonly (readonly [number, number])[]
type Zenith = readonly (readonly number[])[]

/** A chromaticity over the sky, as a function of the angles from the zenith and from the sun. */
function spread(coefficients: Perez, zenith: Zenith, turbidity: number, sunFromZenithRad: number) {
  const [a, b, c, d, e] = coefficients.map(([slope, at]) => slope * turbidity + at)
  const f = (theta: number, gamma: number) =>
    (1 + a * Math.exp(b / Math.max(0.03, Math.cos(theta)))) * (1 + c * Math.exp(d * gamma) + e * Math.cos(gamma) ** 2)
  const powers = [turbidity ** 2, turbidity, 1]
  const t = sunFromZenithRad
  const at = zenith.reduce((sum, [m3, m2, m1, m0], k) => sum + powers[k] * (m3 * t ** 3 + m2 * t ** 2 + m1 * t + m0), 0)
  const whole = f(0, t)
  return (theta: number, gamma: number) => (at * f(theta, gamma)) / whole
}

/** Linear Rec.709 of a chromaticity at luminance 1; what is outside of the gamut is at its edge. */
function rgbOf(x: number, y: number): Vec3 {
  const [X, Z] = [x / y, (1 - x - y) / y]
  const rgb: Vec3 = [
    3.2409699 * X - 1.5373832 - 0.4986108 * Z,
    -0.9692436 * X + 1.8759675 + 0.0415551 * Z,
    0.0556301 * X - 0.203977 + 1.0569715 * Z,
  ]
  const [r, g, b] = rgb.map(v => Math.max(0, v))
  const l = 0.2126 * r + 0.7152 * g + 0.0722 * b
  return [r / l, g / l, b / l]
}

/** Colour of the sun through the air at luminance 1: Rayleigh's and Ångström's extinction at 610, 550 and 465 nm (Iqbal 1983). */
function sunColor(elevationDeg: number, turbidity: number): Vec3 {
  const e = Math.max(LOWEST_DEG, elevationDeg)
  // Relative air mass after Kasten & Young (1989).
  const mass = 1 / (Math.sin(toRadians(e)) + 0.50572 * (e + 6.07995) ** -1.6364)
  const haze = Math.max(0, 0.04608 * turbidity - 0.04586)
  const [r, g, b] = [0.61, 0.55, 0.465].map(um => Math.exp(-mass * (0.008735 * um ** -4.08 + haze * um ** -1.3)))
  const l = 0.2126 * r + 0.7152 * g + 0.0722 * b
  return [r / l, g / l, b / l]
}

/**
 * A clear sky with its sun as an environment, in cd/m² as linear Rec.709, over even ground.
 * @param width of the equirectangular picture in pixels; twice its height
 */
export function createClearSky({ sunAzimuthDeg, sunElevationDeg, turbidity }: ClearSky, width = 1024): FloatImage {
  const height = width / 2
  const map = createFloatImage(width, height, 3)
  const { skyLx, sunLx } = clearSkyIlluminance(sunElevationDeg)
  const high = toRadians(Math.max(LOWEST_DEG, sunElevationDeg))
  const sun = directionOf(toRadians(sunAzimuthDeg), high)
  const [xOf, yOf] = [
    spread(PEREZ_X, ZENITH_X, turbidity, Math.PI / 2 - high),
    spread(PEREZ_Y, ZENITH_Y, turbidity, Math.PI / 2 - high),
  ]
  const luminances = new Float32Array(width * (height / 2))
  let level = 0
  for (let j = 0; j < height / 2; j++) {
    const elevation = rowElevation(j, height)
    const weight = Math.sin(elevation) * rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++) {
      const gamma = Math.acos(Math.min(1, dot(directionOf(columnAzimuth(i, width), elevation), sun)))
      const l = relativeLuminance(elevation, gamma)
      luminances[j * width + i] = l
      level += l * weight
      const [r, g, b] = rgbOf(xOf(Math.PI / 2 - elevation, gamma), yOf(Math.PI / 2 - elevation, gamma))
      const at = (j * width + i) * 3
      map.data[at] = r * l
      map.data[at + 1] = g * l
      map.data[at + 2] = b * l
    }
  }
  const scale = level > 0 ? skyLx / level : 0
  for (let k = 0; k < luminances.length * 3; k++) map.data[k] *= scale
  const ground = (GROUND * (skyLx + sunLx * Math.max(0, Math.sin(toRadians(sunElevationDeg))))) / Math.PI
  map.data.fill(ground, luminances.length * 3)
  addSun(map, sun, sunLx, sunColor(sunElevationDeg, turbidity))
  return map
}

/** Puts the disc of the sun on the pixels that it covers, so that all of them together light as it does. */
function addSun(map: FloatImage, sun: Vec3, sunLx: number, color: Vec3): void {
  const { width, height } = map
  const across = Math.max(SUN_RADIUS_RAD, Math.PI / height)
  const covered: [number, number][] = []
  let whole = 0
  for (let j = 0; j < height; j++) {
    const elevation = rowElevation(j, height)
    if (Math.abs(elevation - Math.asin(sun[1])) > across * 2) continue
    for (let i = 0; i < width; i++) {
      const away = Math.acos(Math.min(1, dot(directionOf(columnAzimuth(i, width), elevation), sun)))
      const share = Math.max(0, 1 - away / across)
      if (share === 0) continue
      covered.push([(j * width + i) * 3, share])
      whole += share * rowSolidAngle(j, width, height)
    }
  }
  for (const [at, share] of covered) for (let c = 0; c < 3; c++) map.data[at + c] += ((sunLx * share) / whole) * color[c]
}
