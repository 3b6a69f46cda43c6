import { linearToOklab, oklabToLinear } from '../color/oklab'
import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import { type ByteImage, texelSteps } from '../image/image'
import type { Vec3 } from '../math/vec3'

export interface PaletteColor {
  /** Linear Rec.709. */
  color: Vec3
  /** Share of the area, 0..1. */
  share: number
}

const SAMPLES = 4096
const ITERATIONS = 12

/**
 * Up to `count` colours of an sRGB image by k-means in OKLab, largest share first. Seeds are spread by farthest
 * point from the mean, so that the result does not depend on chance.
 */
export function computePalette(image: ByteImage, count = 5): PaletteColor[] {
  const pixels = samplePixels(image)
  const n = pixels.length / 3
  const centres: Vec3[] = [meanOf(pixels)]
  const nearest = new Float64Array(n).fill(Number.POSITIVE_INFINITY)
  while (centres.length < count) {
    const last = centres[centres.length - 1]
    let far = 0
    for (let i = 0; i < n; i++) {
      nearest[i] = Math.min(nearest[i], squaredDistance(pixels, i, last))
      if (nearest[i] > nearest[far]) far = i
    }
    if (nearest[far] < 1e-5) break
    centres.push([pixels[far * 3], pixels[far * 3 + 1], pixels[far * 3 + 2]])
  }
  let counts: number[] = []
  const homes = new Uint8Array(n).fill(255)
  for (let iteration = 0, isMoving = true; isMoving && iteration < ITERATIONS; iteration++) {
    isMoving = false
    const sums = centres.map(() => [0, 0, 0, 0])
    for (let i = 0; i < n; i++) {
      let best = 0
      let least = squaredDistance(pixels, i, centres[0])
      for (let k = 1; k < centres.length; k++) {
        const distance = squaredDistance(pixels, i, centres[k])
        if (distance >= least) continue
        least = distance
        best = k
      }
      if (homes[i] !== best) isMoving = true
      homes[i] = best
      for (let c = 0; c < 3; c++) sums[best][c] += pixels[i * 3 + c]
      sums[best][3]++
    }
    counts = sums.map(s => s[3])
    sums.forEach((s, k) => {
      if (s[3] > 0) centres[k] = [s[0] / s[3], s[1] / s[3], s[2] / s[3]]
    })
  }
  return centres
    .map((centre, k) => ({ color: oklabToLinear(...centre).map(v => Math.min(Math.max(v, 0), 1)) as Vec3, share: counts[k] / n }))
    .filter(c => c.share > 0.004)
    .sort((a, b) => b.share - a.share)
}

function samplePixels(image: ByteImage): Float64Array {
  const total = image.width * image.height
  const n = Math.min(SAMPLES, total)
  const out = new Float64Array(n * 3)
  for (let i = 0; i < n; i++) {
    // The golden ratio spreads the samples over rows and columns alike.
    const p = Math.floor(((i * 0.618033988749895) % 1) * total) * image.channels
    const grey = image.channels < 3
    const lab = linearToOklab(
      SRGB_TO_LINEAR[image.data[p]],
      SRGB_TO_LINEAR[image.data[grey ? p : p + 1]],
      SRGB_TO_LINEAR[image.data[grey ? p : p + 2]],
    )
    out.set(lab, i * 3)
  }
  return out
}

function meanOf(pixels: Float64Array): Vec3 {
  const sum: Vec3 = [0, 0, 0]
  for (let i = 0; i < pixels.length; i++) sum[i % 3] += pixels[i]
  const n = pixels.length / 3
  return [sum[0] / n, sum[1] / n, sum[2] / n]
}

const squaredDistance = (pixels: Float64Array, i: number, c: Vec3): number =>
  (pixels[i * 3] - c[0]) ** 2 + (pixels[i * 3 + 1] - c[1]) ** 2 + (pixels[i * 3 + 2] - c[2]) ** 2

/** Mean linear colour of an 8-bit sRGB image, and its light reflectance value 100 Y. */
export function computeMeanAlbedo(image: ByteImage): { albedo: Vec3; lrv: number } {
  const { width, height, channels, data } = image
  const [stepX, stepY] = texelSteps(image)
  const isGrey = channels < 3
  // Codes are counted first: there are 256 of them and millions of texels.
  const [reds, greens, blues] = [new Uint32Array(256), new Uint32Array(256), new Uint32Array(256)]
  let count = 0
  for (let y = 0; y < height; y += stepY)
    for (let x = 0; x < width; x += stepX, count++) {
      const p = (y * width + x) * channels
      reds[data[p]]++
      if (isGrey) continue
      greens[data[p + 1]]++
      blues[data[p + 2]]++
    }
  const meanOfCodes = (counts: Uint32Array): number => {
    let sum = 0
    for (let code = 0; code < 256; code++) sum += counts[code] * SRGB_TO_LINEAR[code]
    return sum / count
  }
  const red = meanOfCodes(reds)
  const albedo: Vec3 = isGrey ? [red, red, red] : [red, meanOfCodes(greens), meanOfCodes(blues)]
  return { albedo, lrv: 100 * luminance(...albedo) }
}
