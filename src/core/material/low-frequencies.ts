import type { Image } from '../image/image'
import { meansOfCells, sampleLuminance } from './sample-luminance'

/** Cycles per tile up to which light that was baked in shows; a sweep of light over a sample is one cycle, at most two. */
const MOST_CYCLES = 1
/** Sampled at this many places a side: enough for a few cycles. */
const GRID = 48
const FLOOR = 0.002

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
  const samples = sampleLuminance(image).map(y => Math.log(y + FLOOR))
  const logs = meansOfCells(samples, GRID)
  const mean = samples.reduce((sum, l) => sum + l, 0) / samples.length
  const variance = Math.max(samples.reduce((sum, l) => sum + (l - mean) ** 2, 0) / samples.length, 1e-12)
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
