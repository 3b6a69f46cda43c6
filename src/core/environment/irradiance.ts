import type { FloatImage } from '../image/image'
import type { Vec3 } from '../math/vec3'
import { columnAzimuth, rowElevation, rowSolidAngle } from './sphere'

/** Irradiance on an upward-facing horizontal card, linear RGB: Σ L max(sin θ, 0) dω. */
export function computeHorizontalIrradiance(map: FloatImage): Vec3 {
  const { width, height, channels, data } = map
  if (channels !== 3) return computeIrradiance(map, [0, 1, 0])
  const total: Vec3 = [0, 0, 0]
  for (let j = 0; j < height; j++) {
    const sine = Math.sin(rowElevation(j, height))
    if (sine <= 0) break
    const sum = sumRow(data.subarray(j * width * 3, (j + 1) * width * 3))
    const w = sine * rowSolidAngle(j, width, height)
    for (let c = 0; c < 3; c++) total[c] += sum[c] * w
  }
  return total
}

/** The sums of a row's red, green and blue. */
export function sumRow(rgb: Float32Array): Vec3 {
  let r = 0
  let g = 0
  let b = 0
  for (let i = 0; i < rgb.length; i += 3) {
    r += rgb[i]
    g += rgb[i + 1]
    b += rgb[i + 2]
  }
  return [r, g, b]
}

/** Irradiance on a card with unit normal `normal`, linear RGB. `mask` of W*H drops the pixels that are set. */
export function computeIrradiance(map: FloatImage, normal: Vec3, mask?: Uint8Array): Vec3 {
  const { width, height, channels, data } = map
  const sum: Vec3 = [0, 0, 0]
  const sines = Float64Array.from({ length: width }, (_, i) => Math.sin(columnAzimuth(i, width)))
  const cosines = Float64Array.from({ length: width }, (_, i) => Math.cos(columnAzimuth(i, width)))
  for (let j = 0; j < height; j++) {
    const elevation = rowElevation(j, height)
    const dOmega = rowSolidAngle(j, width, height)
    const c = Math.cos(elevation)
    const vertical = Math.sin(elevation) * normal[1]
    for (let i = 0; i < width; i++) {
      if (mask?.[j * width + i]) continue
      const cosine = vertical + c * (sines[i] * normal[0] - cosines[i] * normal[2])
      if (cosine <= 0) continue
      const at = (j * width + i) * channels
      const w = cosine * dOmega
      sum[0] += data[at] * w
      sum[1] += data[at + 1] * w
      sum[2] += data[at + 2] * w
    }
  }
  return sum
}

/** Mean radiance over the part of the sphere between two elevations, linear RGB, weighted by solid angle. */
export function computeMeanRadiance(map: FloatImage, fromElevationRad: number, toElevationRad: number, mask?: Uint8Array): Vec3 {
  const { width, height, channels, data } = map
  const sum: Vec3 = [0, 0, 0]
  let total = 0
  for (let j = 0; j < height; j++) {
    const elevation = rowElevation(j, height)
    if (elevation < fromElevationRad || elevation > toElevationRad) continue
    const dOmega = rowSolidAngle(j, width, height)
    for (let i = 0; i < width; i++) {
      if (mask?.[j * width + i]) continue
      const at = (j * width + i) * channels
      for (let c = 0; c < 3; c++) sum[c] += data[at + c] * dOmega
      total += dOmega
    }
  }
  return total > 0 ? [sum[0] / total, sum[1] / total, sum[2] / total] : [0, 0, 0]
}
