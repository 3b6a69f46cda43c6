import { createFloatImage, type FloatImage } from '../image/image'
import { reduceFloat } from '../image/reduce'
import { toRadians } from '../math/angles'

/** Finer than what is left after the blur; a sky of it is blurred in a few hundredths of a second. */
const WIDTH = 256

/**
 * An equirectangular map as a lens sees it that is focused on what is near: each direction the mean of those about it, by a Gaussian. Brightness is
 * held before, so that a sun becomes a soft light and not a white sheet.
 * @param sigmaDeg how far it reaches, in degrees
 * @returns linear RGB, 256 x 128
 */
export function blurMap(map: FloatImage, sigmaDeg: number): FloatImage {
  const height = WIDTH / 2
  const small = map.width > WIDTH ? reduceFloat(map, WIDTH, height) : map
  const { width: w, height: h } = small
  const held = holdBrightest(small)
  const sigmaRows = (sigmaDeg / 180) * h
  const across = createFloatImage(w, h, 3)
  for (let y = 0; y < h; y++) {
    // Towards the poles a degree is more columns.
    const around = Math.max(Math.cos(toRadians(90 - ((y + 0.5) / h) * 180)), 1 / w)
    const weights = gaussian(Math.min(w / 4, ((sigmaDeg / 360) * w) / around), w >> 1)
    const reach = weights.length - 1
    for (let x = 0; x < w; x++)
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let k = -reach; k <= reach; k++) sum += held.data[(y * w + ((x + k + w) % w)) * 3 + c] * weights[Math.abs(k)]
        across.data[(y * w + x) * 3 + c] = sum
      }
  }
  const weights = gaussian(sigmaRows, h - 1)
  const reach = weights.length - 1
  const out = createFloatImage(w, h, 3)
  for (let y = 0; y < h; y++)
    for (let k = -reach; k <= reach; k++) {
      // Over a pole it goes on on the other side.
      const over = y + k < 0 || y + k >= h
      const row = over ? (y + k < 0 ? -1 - (y + k) : 2 * h - 1 - (y + k)) : y + k
      const turned = over ? w >> 1 : 0
      for (let x = 0; x < w; x++)
        for (let c = 0; c < 3; c++)
          out.data[(y * w + x) * 3 + c] += across.data[(row * w + ((x + turned) % w)) * 3 + c] * weights[Math.abs(k)]
    }
  return out
}

/** Brighter than so many times the mean is not brought into the blur. */
const BRIGHTEST = 12

function holdBrightest({ width, height, channels, data }: FloatImage): FloatImage {
  const out = createFloatImage(width, height, 3)
  let mean = 0
  for (let p = 0; p < width * height; p++)
    for (let c = 0; c < 3; c++) {
      const v = data[p * channels + (channels >= 3 ? c : 0)]
      out.data[p * 3 + c] = v > 0 && v < 1e30 ? v : 0
      mean += Math.min(out.data[p * 3 + c], 1e4) / (width * height * 3)
    }
  for (let i = 0; i < out.data.length; i++) out.data[i] = Math.min(out.data[i], BRIGHTEST * mean)
  return out
}

/** Weights of a place and of those away from it, up to three times as far as it reaches; with both sides they add up to 1. */
function gaussian(sigma: number, most: number): Float64Array {
  const reach = Math.min(most, Math.max(0, Math.ceil(sigma * 3)))
  const weights = Float64Array.from({ length: reach + 1 }, (_, k) => (sigma > 0 ? Math.exp(-0.5 * (k / sigma) ** 2) : 1))
  const sum = weights.reduce((s, v, k) => s + (k === 0 ? v : 2 * v), 0)
  return weights.map(v => v / sum)
}
