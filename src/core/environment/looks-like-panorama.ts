import { type ByteImage, fullScale } from '../image/image'

/** How much less the ends of a sphere may change along their rows than its middle does. */
const MOST_AT_POLES = 0.25
const LEAST_IN_MIDDLE = 4 / 255
const MOST_ACROSS_EDGES = 2

/**
 * Whether a picture of 2 to 1 is a whole surrounding: its first and last rows are one point each, so that they hardly change along
 * themselves, and its left edge goes on at the right. A surface that repeats has the second and not the first.
 */
export function looksLikePanorama(image: ByteImage): boolean {
  const { width, height, channels, data } = image
  if (width !== 2 * height || height < 16) return false
  const scale = fullScale(data)
  // Red and blue tell a sky from a ground as well as green does, and a lit room by its lamps.
  const [first, last] = [0, Math.min(2, channels - 1)]
  const value = (x: number, y: number) => {
    const at = (y * width + x) * channels
    return (2 * data[at + first] + data[at + last]) / (3 * scale)
  }
  const stepAlong = (y: number, reach: number): number => {
    let sum = 0
    for (let x = 0; x < width; x++) sum += Math.abs(value(x, y) - value((x + reach) % width, y))
    return sum / width
  }
  // Far along the row: a grain of noise is the same everywhere, a change of subject is not.
  const reach = Math.floor(width / 8)
  let middle = 0
  for (let y = Math.floor(height / 4); y < (3 * height) / 4; y++) middle = Math.max(middle, stepAlong(y, reach))
  const poles = Math.max(stepAlong(0, reach), stepAlong(height - 1, reach))
  let [across, inside] = [0, 0]
  for (let y = 0; y < height; y++) {
    across += Math.abs(value(width - 1, y) - value(0, y))
    for (let x = 0; x + 1 < width; x += 7) inside += Math.abs(value(x, y) - value(x + 1, y))
  }
  const usual = inside / Math.ceil((width - 1) / 7)
  return middle > LEAST_IN_MIDDLE && poles <= MOST_AT_POLES * middle && across <= MOST_ACROSS_EDGES * usual + height / 255
}
