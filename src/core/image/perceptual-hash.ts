import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import { fullScale, type Image } from './image'

const GRID = 32
const KEPT = 8

/**
 * 64 bits of how a picture looks: the lowest 8 x 8 cosine terms of its lightness on a 32 x 32 grid, each above or below their median
 * (a DCT perceptual hash). Another size, encoding or a little noise changes a few bits; another picture about half of them.
 * Float images are taken as linear light and compared by stops. Sixteen hexadecimal digits.
 */
export function computePerceptualHash(image: Image): string {
  const grid = sampleLightness(image)
  const terms: number[] = []
  for (let v = 0; v < KEPT; v++)
    for (let u = 0; u < KEPT; u++) {
      let sum = 0
      for (let y = 0; y < GRID; y++)
        for (let x = 0; x < GRID; x++) sum += grid[y * GRID + x] * COSINES[u * GRID + x] * COSINES[v * GRID + y]
      terms.push(sum)
    }
  // The first term is the mean, which says nothing of the picture.
  const median = [...terms.slice(1)].sort((a, b) => a - b)[(KEPT * KEPT - 1) >> 1]
  let hex = ''
  for (let i = 0; i < 64; i += 4) {
    let digit = 0
    for (let k = 0; k < 4; k++) digit |= terms[i + k] > median && i + k > 0 ? 8 >> k : 0
    hex += digit.toString(16)
  }
  return hex
}

/** How many of the 64 bits differ. */
export function countDifferentBits(a: string, b: string): number {
  let count = 0
  for (let i = 0; i < 16; i++) {
    let bits = Number.parseInt(a[i], 16) ^ Number.parseInt(b[i], 16)
    for (; bits > 0; bits >>= 1) count += bits & 1
  }
  return count
}

const COSINES = Float64Array.from({ length: KEPT * GRID }, (_, i) =>
  Math.cos(((2 * (i % GRID) + 1) * Math.floor(i / GRID) * Math.PI) / (2 * GRID)),
)

/** Texels of a cell that are looked at, a side: more do not change which terms are above the median. */
const CELL_SAMPLES = 8

function sampleLightness({ width, height, channels, data }: Image): Float64Array {
  const grid = new Float64Array(GRID * GRID)
  const isLinear = data instanceof Float32Array
  const scale = 255 / fullScale(data)
  const [green, blue] = channels < 3 ? [0, 0] : [1, 2]
  const lightnessAt = (p: number): number => {
    if (isLinear) return Math.log2(Math.max(luminance(data[p], data[p + green], data[p + blue]), 1e-4) + 1e-3)
    const r = SRGB_TO_LINEAR[Math.round(data[p] * scale)]
    const g = SRGB_TO_LINEAR[Math.round(data[p + green] * scale)]
    const b = SRGB_TO_LINEAR[Math.round(data[p + blue] * scale)]
    return Math.cbrt(luminance(r, g, b))
  }
  for (let j = 0; j < GRID; j++)
    for (let i = 0; i < GRID; i++) {
      const x0 = Math.min(width - 1, Math.floor((i * width) / GRID))
      const y0 = Math.min(height - 1, Math.floor((j * height) / GRID))
      const x1 = Math.max(x0 + 1, Math.floor(((i + 1) * width) / GRID))
      const y1 = Math.max(y0 + 1, Math.floor(((j + 1) * height) / GRID))
      const stepX = Math.max(1, Math.floor((x1 - x0) / CELL_SAMPLES))
      const stepY = Math.max(1, Math.floor((y1 - y0) / CELL_SAMPLES))
      let sum = 0
      let count = 0
      for (let y = y0; y < y1; y += stepY)
        for (let x = x0; x < x1; x += stepX) {
          sum += lightnessAt((y * width + x) * channels)
          count++
        }
      grid[j * GRID + i] = sum / count
    }
  return grid
}
