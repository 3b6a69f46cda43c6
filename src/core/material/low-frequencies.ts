import { luminance, SRGB_TO_LINEAR } from '../color/srgb'
import { fullScale, type Image } from '../image/image'

/** Cycles per tile up to which light that was baked in shows; a sweep of light over a sample is one cycle, at most two. */
const MOST_CYCLES = 1
/** Sampled at this many places a side: enough for a few cycles. */
const GRID = 48
/** Texels of a cell that are looked at, a side. */
const CELL_SAMPLES = 8
const FLOOR = 0.002

/** Where a cell of the grid begins and ends, at least one texel wide. */
function cellBounds(index: number, size: number): [number, number] {
  const start = Math.min(size - 1, Math.floor((index * size) / GRID))
  return [start, Math.min(size, Math.max(Math.floor(((index + 1) * size) / GRID), start + 1))]
}

/** Slow change of log luminance over a tile, as Fourier terms, and how much of all change it is. */
export interface LowFrequencies {
  /** Root mean square of the slow change in natural log units; 0.1 is ten per cent of light. */
  amplitude: number
  /** Its share of the variance of the whole. */
  share: number
  /** Slow part of log luminance at (u, v) in 0..1, with a mean of 0. */
  at(u: number, v: number): number
}

/** Of a display-encoded colour image that tiles. */
export function measureLowFrequencies(image: Image): LowFrequencies {
  const { width, height, channels, data } = image
  const scale = 255 / fullScale(data)
  const color = Math.min(channels, 3)
  const [green, blue] = [Math.min(1, color - 1), Math.min(2, color - 1)]
  const logs = new Float64Array(GRID * GRID)
  let whole = 0
  let wholeSquared = 0
  let pixels = 0
  for (let j = 0; j < GRID; j++)
    for (let i = 0; i < GRID; i++) {
      const [x0, x1] = cellBounds(i, width)
      const [y0, y1] = cellBounds(j, height)
      const stepX = Math.max(1, Math.floor((x1 - x0) / CELL_SAMPLES))
      const stepY = Math.max(1, Math.floor((y1 - y0) / CELL_SAMPLES))
      let sum = 0
      let count = 0
      for (let y = y0; y < y1; y += stepY)
        for (let x = x0; x < x1; x += stepX) {
          const p = (y * width + x) * channels
          const r = SRGB_TO_LINEAR[Math.round(data[p] * scale)]
          const g = SRGB_TO_LINEAR[Math.round(data[p + green] * scale)]
          const b = SRGB_TO_LINEAR[Math.round(data[p + blue] * scale)]
          const l = Math.log(luminance(r, g, b) + FLOOR)
          sum += l
          wholeSquared += l * l
          count++
        }
      whole += sum
      pixels += count
      logs[j * GRID + i] = count > 0 ? sum / count : 0
    }
  const mean = whole / pixels
  const variance = Math.max(wholeSquared / pixels - mean * mean, 1e-12)
  const terms: { kx: number; ky: number; re: number; im: number }[] = []
  let energy = 0
  for (let ky = -MOST_CYCLES; ky <= MOST_CYCLES; ky++)
    for (let kx = -MOST_CYCLES; kx <= MOST_CYCLES; kx++) {
      if (kx === 0 && ky === 0) continue
      let re = 0
      let im = 0
      for (let j = 0; j < GRID; j++)
        for (let i = 0; i < GRID; i++) {
          const angle = (-2 * Math.PI * (kx * (i + 0.5) + ky * (j + 0.5))) / GRID
          re += logs[j * GRID + i] * Math.cos(angle)
          im += logs[j * GRID + i] * Math.sin(angle)
        }
      re /= GRID * GRID
      im /= GRID * GRID
      energy += re * re + im * im
      terms.push({ kx, ky, re, im })
    }
  return {
    amplitude: Math.sqrt(energy),
    share: Math.min(1, energy / variance),
    at: (u, v) => {
      let sum = 0
      for (const { kx, ky, re, im } of terms) {
        const angle = 2 * Math.PI * (kx * u + ky * v)
        sum += re * Math.cos(angle) - im * Math.sin(angle)
      }
      return sum
    },
  }
}
