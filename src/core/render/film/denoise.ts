import { luminance } from '../../color/srgb'
import { createFloatImage, type FloatImage } from '../../image/image'

/**
 * Edge-avoiding à-trous wavelet filter (Dammertz et al. 2010) with the variance-guided luminance stop of Schied et al. 2017,
 * on light with the surface colour divided out. For drafts only: it trades noise for a little blur and says so in its name.
 */

/** What the camera's rays met first, averaged over a pixel's samples. */
export interface Features {
  /** 3 per pixel: base colour, 1 where nothing was met. */
  albedo: Float32Array
  /** 3 per pixel: shading normal, zero where nothing was met. */
  normal: Float32Array
  /** 1 per pixel, metres. */
  depth: Float32Array
  /** 1 per pixel: squared standard error of luminance. */
  variance: Float32Array
}

const PASSES = 4
/** B3 spline. */
const KERNEL = [1 / 16, 1 / 4, 3 / 8, 1 / 4, 1 / 16]
const NORMAL_SHARPNESS = 24
const DEPTH_TOLERANCE = 0.02
const LUMINANCE_SPREAD = 3.5
const ALBEDO_FLOOR = 0.03
/** Relative standard error from which a pixel may be an outlier. */
const OUTLIER_ERROR = 0.25

/** @returns a new image of the same size */
export function denoise(image: FloatImage, features: Features): FloatImage {
  const { width, height } = image
  const count = width * height
  const calm = withoutOutliers(image, features.variance)
  const surface = Float32Array.from(features.albedo, a => Math.max(a, ALBEDO_FLOOR))
  let light = Float32Array.from(calm, (v, i) => v / surface[i])
  let variance = Float32Array.from(features.variance, (v, p) => {
    const l = luminance(surface[p * 3], surface[p * 3 + 1], surface[p * 3 + 2])
    return v / (l * l)
  })
  for (let pass = 0; pass < PASSES; pass++) {
    const next = new Float32Array(count * 3)
    const nextVariance = new Float32Array(count)
    filterPass(light, variance, features, width, height, 1 << pass, next, nextVariance)
    light = next
    variance = nextVariance
  }
  const out = createFloatImage(width, height, 3)
  for (let i = 0; i < out.data.length; i++) out.data[i] = light[i] * surface[i]
  return out
}

/** A pixel whose own samples disagree and that stands out of its neighbours is held to twice their median. */
function withoutOutliers({ width, height, data }: FloatImage, variance: Float32Array): Float32Array {
  const out = Float32Array.from(data)
  const around: number[] = []
  const at = (p: number) => luminance(data[p * 3], data[p * 3 + 1], data[p * 3 + 2])
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      const here = at(p)
      if (Math.sqrt(variance[p]) < here * OUTLIER_ERROR) continue
      around.length = 0
      for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
        for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++)
          if (i !== x || j !== y) around.push(at(j * width + i))
      around.sort((a, b) => a - b)
      const limit = around[around.length >> 1] * 2
      if (here > limit) for (let c = 0; c < 3; c++) out[p * 3 + c] *= limit / here
    }
  return out
}

function filterPass(
  light: Float32Array,
  variance: Float32Array,
  { normal, depth }: Features,
  width: number,
  height: number,
  step: number,
  dstLight: Float32Array,
  dstVariance: Float32Array,
): void {
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      const here = luminance(light[p * 3], light[p * 3 + 1], light[p * 3 + 2])
      const spread = LUMINANCE_SPREAD * Math.sqrt(blurredVariance(variance, width, height, x, y)) + 1e-4
      const met = normal[p * 3] !== 0 || normal[p * 3 + 1] !== 0 || normal[p * 3 + 2] !== 0
      let r = 0
      let g = 0
      let b = 0
      let v = 0
      let total = 0
      for (let j = -2; j <= 2; j++) {
        const qy = y + j * step
        if (qy < 0 || qy >= height) continue
        for (let i = -2; i <= 2; i++) {
          const qx = x + i * step
          if (qx < 0 || qx >= width) continue
          const q = qy * width + qx
          const cosine =
            normal[p * 3] * normal[q * 3] + normal[p * 3 + 1] * normal[q * 3 + 1] + normal[p * 3 + 2] * normal[q * 3 + 2]
          // Where the camera met nothing there is no normal, and only other nothing is alike.
          const alike = met ? Math.max(0, cosine) ** NORMAL_SHARPNESS : normal[q * 3] === 0 && normal[q * 3 + 1] === 0 ? 1 : 0
          const away = Math.abs(depth[p] - depth[q]) / (depth[p] * DEPTH_TOLERANCE * step + 1e-6)
          const there = luminance(light[q * 3], light[q * 3 + 1], light[q * 3 + 2])
          const weight = KERNEL[i + 2] * KERNEL[j + 2] * alike * Math.exp(-away - Math.abs(here - there) / spread)
          r += light[q * 3] * weight
          g += light[q * 3 + 1] * weight
          b += light[q * 3 + 2] * weight
          v += variance[q] * weight * weight
          total += weight
        }
      }
      if (!(total > 1e-9)) {
        for (let c = 0; c < 3; c++) dstLight[p * 3 + c] = light[p * 3 + c]
        dstVariance[p] = variance[p]
        continue
      }
      dstLight[p * 3] = r / total
      dstLight[p * 3 + 1] = g / total
      dstLight[p * 3 + 2] = b / total
      dstVariance[p] = v / (total * total)
    }
}

/** A 3 x 3 mean: a few samples estimate their own variance badly. */
function blurredVariance(variance: Float32Array, width: number, height: number, x: number, y: number): number {
  let sum = 0
  let count = 0
  for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
    for (let i = Math.max(0, x - 1); i <= Math.min(width - 1, x + 1); i++) {
      sum += variance[j * width + i]
      count++
    }
  return sum / count
}
