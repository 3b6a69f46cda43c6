import { luminance } from '../color/srgb'
import type { FloatImage } from '../image/image'
import { reduceFloat } from '../image/reduce'
import { toDegrees, toRadians } from '../math/angles'
import { percentile } from '../math/statistics'
import { dot } from '../math/vec3'
import { computeHorizontalIrradiance } from './irradiance'
import type { KeyLight } from './key-light'
import { columnAzimuth, directionOf, rowElevation, rowSolidAngle } from './sphere'

/**
 * Figures that tell a sky from a ceiling, all ratios, so that a map's absolute level does not matter. Medians rather than means: a few
 * windows or lamps move a mean by a hundred times and a median not at all.
 */
export interface SphereStatistics {
  /** Median luminance above +15° over that below −15°. A ground reflects a tenth to a third of its sky; floor and ceiling are alike. */
  upperToLower: number
  /** Median luminance above +15° over a white card lying in the map. A sky is the light; a ceiling only reflects it. */
  upperToCard: number
  /** Median luminance above +55° over the same card. */
  zenithToCard: number
  /** Median luminance from 2° to 12° over that above +55°. */
  horizonToZenith: number
  /** Median blue over red above +15°, above +55°, and from 1° to 15°. */
  upperBlueToRed: number
  zenithBlueToRed: number
  horizonBlueToRed: number
  /** |Δ log2 L| over two degrees above +25°: the median, and what four fifths stay below. */
  upperRoughness: number
  upperRoughest: number
  /** Share of the sphere darker than a fiftieth of the mean. */
  darkShare: number
  /** Peak luminance over the median of the upper half. */
  peakToUpper: number
  /** The key's mean luminance over that of a ring about it: a disc stands out, a bright patch of cloud does not. */
  keyToRing: number
}

const WIDTH = 512

/** Measures a clean equirectangular linear RGB map (nothing negative, nothing infinite). */
export function measureSphere(source: FloatImage, key: KeyLight | null): SphereStatistics {
  const map = source.width > WIDTH ? reduceFloat(source, WIDTH, WIDTH / 2) : source
  const { width, height, channels, data } = map
  const light = new Float32Array(width * height)
  for (let p = 0; p < light.length; p++) light[p] = luminance(data[p * channels], data[p * channels + 1], data[p * channels + 2])
  const card = luminance(...computeHorizontalIrradiance(map)) / Math.PI
  const floor = card * 1e-4
  const rowStep = Math.max(1, Math.round(height / 90))

  /** A percentile by solid angle over a band of elevations: rows are thinned as they shrink towards the poles. */
  const bandPercentile = (lowDeg: number, highDeg: number, share: number, value: (p: number) => number): number => {
    const values: number[] = []
    for (let j = 0; j < height; j++) {
      const elevation = rowElevation(j, height)
      if (elevation < toRadians(lowDeg) || elevation > toRadians(highDeg)) continue
      const step = Math.max(1, Math.round(1 / Math.max(0.02, Math.cos(elevation))))
      for (let i = 0; i < width; i += step) {
        const v = value(j * width + i)
        if (!Number.isNaN(v)) values.push(v)
      }
    }
    return values.length > 0 ? percentile(values, share) : 0
  }
  const medianLight = (lowDeg: number, highDeg: number) => bandPercentile(lowDeg, highDeg, 0.5, p => light[p])
  const blueToRed = (lowDeg: number, highDeg: number) =>
    bandPercentile(lowDeg, highDeg, 0.5, p => (data[p * channels] > 0 ? data[p * channels + 2] / data[p * channels] : Number.NaN))
  const roughness = (share: number) =>
    bandPercentile(25, 90, share, p => {
      const j = Math.floor(p / width)
      const columns = Math.max(1, Math.round(rowStep / Math.max(0.05, Math.cos(rowElevation(j, height)))))
      const right = j * width + ((p - j * width + columns) % width)
      const below = Math.min(j + rowStep, height - 1) * width + (p - j * width)
      const here = Math.log2(light[p] + floor)
      return Math.max(Math.abs(here - Math.log2(light[right] + floor)), Math.abs(here - Math.log2(light[below] + floor)))
    })

  let sum = 0
  let peak = 0
  for (let j = 0, p = 0; j < height; j++) {
    const dOmega = rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++, p++) {
      sum += light[p] * dOmega
      peak = Math.max(peak, light[p])
    }
  }
  const mean = sum / (4 * Math.PI)
  let dark = 0
  for (let j = 0, p = 0; j < height; j++) {
    const dOmega = rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++, p++) if (light[p] < mean / 50) dark += dOmega
  }
  const ratio = (a: number, b: number) => (b > 0 ? Math.min(a / b, 1e6) : a > 0 ? 1e6 : 1)
  const upper = medianLight(15, 90)
  const zenith = medianLight(55, 90)
  return {
    upperToLower: ratio(upper, medianLight(-90, -15)),
    upperToCard: ratio(upper, card),
    zenithToCard: ratio(zenith, card),
    horizonToZenith: ratio(medianLight(2, 12), zenith),
    upperBlueToRed: blueToRed(15, 90),
    zenithBlueToRed: blueToRed(55, 90),
    horizonBlueToRed: blueToRed(1, 15),
    upperRoughness: roughness(0.5),
    upperRoughest: roughness(0.8),
    darkShare: dark / (4 * Math.PI),
    peakToUpper: ratio(peak, upper),
    keyToRing: key ? ratio(luminance(...key.radiance), ringLuminance(map, light, key)) : 1,
  }
}

/** Mean luminance from 1.5 to 3 radii about the key, at least three to six degrees from its edge. */
function ringLuminance({ width, height }: FloatImage, light: Float32Array, key: KeyLight): number {
  const radius = key.angularDiameterDeg / 2
  const near = Math.cos(toRadians(Math.min(170, Math.max(radius * 1.5, radius + 3))))
  const far = Math.cos(toRadians(Math.min(175, Math.max(radius * 3, radius + 6))))
  let sum = 0
  let omega = 0
  for (let j = 0, p = 0; j < height; j++) {
    const elevation = rowElevation(j, height)
    if (Math.abs(toDegrees(elevation) - key.elevationDeg) > radius * 3 + 8) {
      p += width
      continue
    }
    const dOmega = rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++, p++) {
      const cosine = dot(directionOf(columnAzimuth(i, width), elevation), key.direction)
      if (cosine > near || cosine < far) continue
      sum += light[p] * dOmega
      omega += dOmega
    }
  }
  return omega > 0 ? sum / omega : 0
}
