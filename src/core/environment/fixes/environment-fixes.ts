import type { FloatImage } from '../../image/image'

/** Whether a pixel holds a value that light cannot have. */
const isBad = (image: FloatImage, p: number): boolean => {
  for (let c = 0; c < Math.min(3, image.channels); c++) {
    const v = image.data[p * image.channels + c]
    if (!(v >= 0 && v < Number.POSITIVE_INFINITY)) return true
  }
  return false
}

/**
 * Negative, infinite and not-a-number pixels from the sound ones about them: the median of the eight neighbours where three of them are
 * sound, else the mean of the smallest block of a halving pyramid that holds a sound one. The picture wraps sideways. Sound pixels
 * stay as they are, to the bit; where nothing is sound there is black.
 */
export function repairPixels(image: FloatImage): FloatImage {
  const { width, height, channels } = image
  const data = image.data.slice()
  let pyramid: Level[] | null = null
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const p = y * width + x
      if (!isBad(image, p)) continue
      const sound = soundNeighbours(image, x, y)
      if (sound.length < 3) pyramid ??= buildPyramid(image)
      for (let c = 0; c < Math.min(3, channels); c++) {
        const values = sound.map(q => image.data[q * channels + c]).sort((a, b) => a - b)
        data[p * channels + c] = values.length >= 3 ? values[values.length >> 1] : blockMean(pyramid!, x, y, c)
      }
    }
  return { ...image, data }
}

function soundNeighbours(image: FloatImage, x: number, y: number): number[] {
  const { width, height } = image
  const found: number[] = []
  for (let j = Math.max(0, y - 1); j <= Math.min(height - 1, y + 1); j++)
    for (let i = -1; i <= 1; i++) {
      const q = j * width + ((x + i + width) % width)
      if (!isBad(image, q)) found.push(q)
    }
  return found
}

/** Sums of three channels over sound pixels, and how many there are, for each block of 2^(k+1) pixels a side. */
interface Level {
  width: number
  height: number
  sums: Float64Array
}

function buildPyramid(image: FloatImage): Level[] {
  const levels: Level[] = []
  let [width, height] = [image.width, image.height]
  while (width > 1 || height > 1) {
    const next = { width: (width + 1) >> 1, height: (height + 1) >> 1 }
    const sums = new Float64Array(next.width * next.height * 4)
    const finer = levels[levels.length - 1]
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        const to = ((y >> 1) * next.width + (x >> 1)) * 4
        const p = y * width + x
        if (finer) for (let c = 0; c < 4; c++) sums[to + c] += finer.sums[p * 4 + c]
        else if (!isBad(image, p)) {
          for (let c = 0; c < 3; c++) sums[to + c] += image.data[p * image.channels + Math.min(c, image.channels - 1)]
          sums[to + 3]++
        }
      }
    levels.push({ ...next, sums })
    ;({ width, height } = next)
  }
  return levels
}

function blockMean(pyramid: readonly Level[], x: number, y: number, c: number): number {
  for (const [k, { width, sums }] of pyramid.entries()) {
    const at = ((y >> (k + 1)) * width + (x >> (k + 1))) * 4
    if (sums[at + 3] > 0) return sums[at + c] / sums[at + 3]
  }
  return 0
}

/** Turned about the vertical by whole pixels, to the right by `pixels`: nothing is resampled, nothing lost. */
export function rollPanorama(image: FloatImage, pixels: number): FloatImage {
  const { width, height, channels } = image
  const data = new Float32Array(image.data.length)
  const shift = (((Math.round(pixels) % width) + width) % width) * channels
  const row = width * channels
  for (let y = 0; y < height; y++) {
    const line = image.data.subarray(y * row, (y + 1) * row)
    data.set(line.subarray(0, row - shift), y * row + shift)
    data.set(line.subarray(row - shift), y * row)
  }
  return { ...image, data }
}

/**
 * Brighter or darker by a factor; what is no light stays as it is.
 * @throws RangeError when the gain is not a positive, finite number
 */
export function applyGain(image: FloatImage, gain: number): FloatImage {
  if (!(gain > 0) || !Number.isFinite(gain)) throw new RangeError(`gain: ${gain} is no factor`)
  return { ...image, data: image.data.map(v => v * gain) }
}

/** Turned so that what stands at `azimuthDeg` stands at `houseDeg`, to the nearest whole pixel. */
export const rollToHeading = (image: FloatImage, azimuthDeg: number, houseDeg: number): FloatImage =>
  rollPanorama(image, ((houseDeg - azimuthDeg) / 360) * image.width)

/** Share of the width on each side over which a seam is faded out. */
const SEAM_REACH = 0.08

/**
 * Left and right edge brought together: the step between them, row by row and smoothed along the column, is shared out over a few per
 * cent of the width on both sides, as a factor, so that shadows stay dark and nothing becomes negative.
 */
export function closeSeam(image: FloatImage): FloatImage {
  const { width, height, channels } = image
  const data = image.data.slice()
  const reach = Math.max(2, Math.round(width * SEAM_REACH))
  const EPSILON = 1e-6
  for (let c = 0; c < Math.min(3, channels); c++) {
    const steps = Float64Array.from({ length: height }, (_, y) => {
      const row = y * width * channels + c
      return Math.log((image.data[row] + EPSILON) / (image.data[row + (width - 1) * channels] + EPSILON))
    })
    for (let y = 0; y < height; y++) {
      let sum = 0
      let count = 0
      for (let j = Math.max(0, y - 2); j <= Math.min(height - 1, y + 2); j++) {
        sum += Math.max(-4, Math.min(4, steps[j]))
        count++
      }
      const half = sum / count / 2
      for (let k = 0; k < reach; k++) {
        const fade = 0.5 + 0.5 * Math.cos((Math.PI * k) / reach)
        data[(y * width + k) * channels + c] *= Math.exp(-half * fade)
        data[(y * width + width - 1 - k) * channels + c] *= Math.exp(half * fade)
      }
    }
  }
  return { ...image, data }
}
