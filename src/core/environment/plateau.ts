import { luminance } from '../color/srgb'
import type { FloatImage } from '../image/image'
import { dot, normalize, type Vec3 } from '../math/vec3'
import { columnAzimuth, directionOf, rowElevation, rowSolidAngle, toDegrees } from './sphere'

/** Where a map is flat at its own maximum: what a sensor or a format cut off. */
export interface Plateau {
  pixels: number
  elevationDeg: number
  /** Steradians. */
  solidAngle: number
  /** Diameter of the disc of its solid angle. */
  diameterDeg: number
  /** Length of the mean of its directions, 1 when they are all one: how much it is one compact spot. */
  concentration: number
  /** Mean luminance at twice its radius from its middle, over its own: near 1 where the light merely levels out. */
  surround: number
  /** Its luminance in the map's own units. */
  luminance: number
}

/** Pixels this near the maximum belong to it; half floats are apart by 0.05 to 0.1 %. */
const SAME = 0.9995

/** Null on a black map. */
export function measurePlateau(map: FloatImage): Plateau | null {
  const { width, height, channels, data } = map
  const lightAt = (p: number) => {
    const y = luminance(data[p * channels], data[p * channels + 1], data[p * channels + 2])
    return y >= 0 && y < 1e30 ? y : 0
  }
  let peak = 0
  for (let p = 0; p < width * height; p++) peak = Math.max(peak, lightAt(p))
  if (!(peak > 0)) return null
  const sum: Vec3 = [0, 0, 0]
  let omega = 0
  let pixels = 0
  const each = (visit: (p: number, direction: Vec3, dOmega: number) => void) => {
    for (let j = 0, p = 0; j < height; j++) {
      const dOmega = rowSolidAngle(j, width, height)
      const elevation = rowElevation(j, height)
      for (let i = 0; i < width; i++, p++) visit(p, directionOf(columnAzimuth(i, width), elevation), dOmega)
    }
  }
  each((p, d, dOmega) => {
    if (lightAt(p) < peak * SAME) return
    for (let c = 0; c < 3; c++) sum[c] += d[c] * dOmega
    omega += dOmega
    pixels++
  })
  const middle = normalize(sum)
  const radius = Math.acos(Math.max(-1, 1 - omega / (2 * Math.PI)))
  // A ring as wide as a few pixels at least.
  const reach = Math.max(radius, (1.5 * Math.PI) / height)
  const [near, far] = [Math.cos(Math.min(Math.PI, reach * 2.5)), Math.cos(Math.min(Math.PI, reach * 1.6))]
  let ring = 0
  let ringOmega = 0
  each((p, d, dOmega) => {
    const cosine = dot(d, middle)
    if (cosine < near || cosine > far) return
    ring += lightAt(p) * dOmega
    ringOmega += dOmega
  })
  return {
    pixels,
    elevationDeg: toDegrees(Math.asin(Math.max(-1, Math.min(1, middle[1])))),
    solidAngle: omega,
    diameterDeg: toDegrees(2 * radius),
    concentration: Math.hypot(...sum) / omega,
    surround: ringOmega > 0 ? ring / ringOmega / peak : 1,
    luminance: peak,
  }
}
