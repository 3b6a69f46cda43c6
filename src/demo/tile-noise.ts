import { hash32 } from '#core/math/random'

/** Noise that repeats: every function here has period 1 in u and v. */

const lattice = (seed: number, x: number, y: number): number =>
  hash32(Math.imul(x, 0x1f123bb5) ^ Math.imul(y, 0x5f356495) ^ Math.imul(seed, 0x6c8e9cf5)) / 4294967296

const smooth = (t: number): number => t * t * t * (t * (t * 6 - 15) + 10)

/** Value noise in 0..1 with `cellsU` by `cellsV` cells to the tile. */
export function tileNoise(seed: number, u: number, v: number, cellsU: number, cellsV: number): number {
  const x = u * cellsU
  const y = v * cellsV
  const xi = Math.floor(x)
  const yi = Math.floor(y)
  const fx = smooth(x - xi)
  const fy = smooth(y - yi)
  const x0 = ((xi % cellsU) + cellsU) % cellsU
  const y0 = ((yi % cellsV) + cellsV) % cellsV
  const x1 = (x0 + 1) % cellsU
  const y1 = (y0 + 1) % cellsV
  const a = lattice(seed, x0, y0)
  const b = lattice(seed, x1, y0)
  const c = lattice(seed, x0, y1)
  const d = lattice(seed, x1, y1)
  return a + (b - a) * fx + (c - a + (a - b - c + d) * fx) * fy
}

/** Octaves of tile noise, each twice as fine and `gain` as strong; mean about one half. */
export function tileFbm(seed: number, u: number, v: number, cellsU: number, cellsV: number, octaves: number, gain = 0.5): number {
  let sum = 0
  let total = 0
  let weight = 1
  for (let o = 0; o < octaves; o++) {
    sum += weight * tileNoise(seed + o * 101, u, v, cellsU << o, cellsV << o)
    total += weight
    weight *= gain
  }
  return sum / total
}

export interface Cell {
  /** Distance to the nearest and second nearest point, in cells. */
  nearest: number
  second: number
  /** Uniform in 0..1, one for each point. */
  id: number
}

/** The own cell first, so that most others need not be looked at. */
const NEIGHBOURS = [0, -1, 1]

/** Scattered points, one to a cell, repeating. */
export function tileCells(seed: number, u: number, v: number, cells: number, jitter = 1): Cell {
  const x = u * cells
  const y = v * cells
  const xi = Math.floor(x)
  const yi = Math.floor(y)
  let nearest = 9
  let second = 9
  let id = 0
  for (const j of NEIGHBOURS)
    for (const i of NEIGHBOURS) {
      // A whole neighbouring cell farther than what is already known cannot matter.
      const gapX = i === 0 ? 0 : i < 0 ? x - xi : xi + 1 - x
      const gapY = j === 0 ? 0 : j < 0 ? y - yi : yi + 1 - y
      if (gapX * gapX + gapY * gapY > second * second) continue
      const cx = ((((xi + i) % cells) + cells) % cells) | 0
      const cy = ((((yi + j) % cells) + cells) % cells) | 0
      const px = xi + i + 0.5 + (lattice(seed, cx, cy) - 0.5) * jitter
      const py = yi + j + 0.5 + (lattice(seed + 1, cx, cy) - 0.5) * jitter
      const d = Math.sqrt((px - x) * (px - x) + (py - y) * (py - y))
      if (d < nearest) {
        second = nearest
        nearest = d
        id = lattice(seed + 2, cx, cy)
      } else if (d < second) second = d
    }
  return { nearest, second, id }
}

export const clamp01 = (v: number): number => Math.min(Math.max(v, 0), 1)
export const ramp = (from: number, to: number, v: number): number => {
  const t = clamp01((v - from) / (to - from))
  return t * t * (3 - 2 * t)
}
/** Uniform in 0..1, one for each combination of whole numbers. */
export const random = (seed: number, a: number, b = 0, c = 0): number => lattice(seed + Math.imul(c, 0x2c1b3c6d), a, b)
