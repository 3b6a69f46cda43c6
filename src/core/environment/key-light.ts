import { luminance } from '../color/srgb'
import type { FloatImage } from '../image/image'
import { toDegrees } from '../math/angles'
import { normalize, type Vec3 } from '../math/vec3'
import { computeIrradiance } from './irradiance'
import { azimuthOf, columnAzimuth, directionOf, rowElevation, rowSolidAngle } from './sphere'

/** The brightest connected region of the sphere: the sun, a window, a softbox or a lamp. */
export interface KeyLight {
  direction: Vec3
  azimuthDeg: number
  elevationDeg: number
  /** Diameter of the disc with the region's solid angle. */
  angularDiameterDeg: number
  /** Region's share of the horizontal irradiance, 0..1. */
  horizontalShare: number
  /** Irradiance on a card facing the key over that on the same card with the key removed. */
  keyToFill: number
  /** Share of the region's pixels within 0.1 % of the peak: near 1 is a plateau cut off at the maximum. */
  plateauShare: number
  /** Mean linear RGB radiance of the region. */
  radiance: Vec3
  /** W*H, 1 inside the region. */
  mask: Uint8Array
  /** How many other separate regions carry more than a tenth of this one's energy. */
  rivals: number
}

interface Region {
  pixels: number[]
  energy: number
}

/**
 * Finds the key of an equirectangular linear RGB map. The threshold sits halfway (in stops) between the peak and the mean of
 * the sphere, so that a sun's disc is taken and its aureole left, and a soft source is taken whole. Null on a black map.
 */
export function findKeyLight(map: FloatImage): KeyLight | null {
  const { width, height, channels, data } = map
  const light = new Float32Array(width * height)
  let peak = 0
  let peakAt = -1
  let sum = 0
  for (let j = 0, p = 0; j < height; j++) {
    const dOmega = rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++, p++) {
      const y = luminance(data[p * channels], data[p * channels + 1], data[p * channels + 2])
      light[p] = y > 0 && Number.isFinite(y) ? y : 0
      sum += light[p] * dOmega
      if (light[p] > peak) {
        peak = light[p]
        peakAt = p
      }
    }
  }
  if (peakAt < 0) return null
  const mean = sum / (4 * Math.PI)
  // Rounding may put the mean of an even sphere above its peak; the peak itself always belongs.
  const threshold = Math.min(Math.max(Math.sqrt(peak * mean), peak / 64), peak)
  const { regions, labels } = labelRegions(light, width, height, threshold)
  const label = labels[peakAt]
  const key = regions[label - 1]
  const mask = Uint8Array.from(labels, l => (l === label ? 1 : 0))
  const direction: Vec3 = [0, 0, 0]
  const radiance: Vec3 = [0, 0, 0]
  let omega = 0
  let plateau = 0
  for (const p of key.pixels) {
    const j = Math.floor(p / width)
    const dOmega = rowSolidAngle(j, width, height)
    const d = directionOf(columnAzimuth(p % width, width), rowElevation(j, height))
    for (let c = 0; c < 3; c++) {
      direction[c] += d[c] * light[p] * dOmega
      radiance[c] += data[p * channels + c] * dOmega
    }
    omega += dOmega
    if (light[p] > peak * 0.999) plateau++
  }
  const unit = normalize(direction)
  const facing = computeIrradiance(map, unit)
  const fill = computeIrradiance(map, unit, mask)
  const horizontal = computeIrradiance(map, [0, 1, 0])
  const horizontalFill = computeIrradiance(map, [0, 1, 0], mask)
  const y = (c: Vec3) => luminance(c[0], c[1], c[2])
  return {
    direction: unit,
    azimuthDeg: toDegrees(azimuthOf(unit[0], unit[2])),
    elevationDeg: toDegrees(Math.asin(Math.max(-1, Math.min(1, unit[1])))),
    angularDiameterDeg: toDegrees(2 * Math.acos(Math.max(-1, 1 - omega / (2 * Math.PI)))),
    horizontalShare: y(horizontal) > 0 ? 1 - y(horizontalFill) / y(horizontal) : 0,
    keyToFill: y(fill) > 0 ? (y(facing) - y(fill)) / y(fill) : Number.POSITIVE_INFINITY,
    plateauShare: plateau / key.pixels.length,
    radiance: [radiance[0] / omega, radiance[1] / omega, radiance[2] / omega],
    mask,
    rivals: regions.filter(r => r !== key && r.energy > key.energy * 0.1).length,
  }
}

/** 4-connected regions above the threshold, joined across the left and right edges. Labels start at 1. */
function labelRegions(light: Float32Array, width: number, height: number, threshold: number) {
  const labels = new Int32Array(light.length)
  const regions: Region[] = []
  const stack: number[] = []
  for (let start = 0; start < light.length; start++) {
    if (labels[start] || light[start] < threshold) continue
    const region: Region = { pixels: [], energy: 0 }
    regions.push(region)
    const label = regions.length
    labels[start] = label
    stack.push(start)
    while (stack.length > 0) {
      const p = stack.pop()!
      const x = p % width
      const y = (p - x) / width
      region.pixels.push(p)
      region.energy += light[p] * rowSolidAngle(y, width, height)
      const visit = (q: number) => {
        if (!labels[q] && light[q] >= threshold) {
          labels[q] = label
          stack.push(q)
        }
      }
      visit(y * width + ((x + 1) % width))
      visit(y * width + ((x + width - 1) % width))
      if (y > 0) visit(p - width)
      if (y < height - 1) visit(p + width)
    }
  }
  return { regions, labels }
}
