import type { LitPoint } from './guide-grid'
import {
  BINS,
  BINS_ACROSS,
  BINS_DOWN,
  type DrawnBin,
  drawBin,
  evenly,
  numberOfBin,
  TABLE_NUMBERS,
  writeTable,
} from './guide-tables'

const RAYS = 512
/** Share of a bin that its neighbours get, and how much of all is spread evenly: a ray of a bin or two says little of it alone. */
const SPREAD = 0.5
const EVEN = 0.05

/** What comes back from what a ray meets, in any unit; 0 where it meets nothing. */
export type RadianceAlong = (x: number, y: number, z: number, dx: number, dy: number, dz: number) => number

/**
 * From where light comes that was sent on by surfaces, by place: the sunlit patch of a floor lights a whole room, and is hard to find by chance.
 * Directions are drawn from bins of equal solid angle in the world. After Müller, Gross & Novák, "Practical Path Guiding" (2017), learnt before
 * the picture instead of along with it, so that a sample depends on nothing but its number.
 */
export class BounceGuide {
  /** With the density of each bin, per steradian. */
  readonly tables: Float64Array
  private readonly drawn: DrawnBin = { row: 0, column: 0, across: 0, down: 0 }
  /** Written by `sample`. */
  x = 0
  y = 0
  z = 0

  constructor(spots: readonly (readonly LitPoint[])[], radianceAlong: RadianceAlong) {
    this.tables = new Float64Array(spots.length * TABLE_NUMBERS)
    spots.forEach((points, table) => {
      const shares = smooth(lookAround(points, radianceAlong, table))
      const whole = shares.reduce((sum, s) => sum + s, 0)
      for (let bin = 0; bin < BINS; bin++) shares[bin] = (whole > 0 ? (1 - EVEN) * (shares[bin] / whole) : 1 - EVEN) + EVEN / BINS
      writeTable(this.tables, table, shares, bin => (shares[bin] * BINS) / (4 * Math.PI))
    })
  }

  /** Draws a unit direction by a table into x, y, z. */
  sample(table: number, u1: number, u2: number): void {
    const { drawn } = this
    drawBin(this.tables, table, u1, u2, drawn)
    const rise = 1 - (2 * (drawn.row + drawn.down)) / BINS_DOWN
    const azimuth = 2 * Math.PI * ((drawn.column + drawn.across) / BINS_ACROSS - 0.5)
    const level = Math.sqrt(Math.max(0, 1 - rise * rise))
    this.x = level * Math.sin(azimuth)
    this.y = rise
    this.z = -level * Math.cos(azimuth)
  }

  /** Density per steradian with which `sample` draws a unit direction by a table. */
  pdfOf(table: number, x: number, y: number, z: number): number {
    return numberOfBin(this.tables, table, binOf(x, y, z))
  }
}

function binOf(x: number, y: number, z: number): number {
  const row = Math.min(BINS_DOWN - 1, Math.max(0, Math.floor(((1 - y) / 2) * BINS_DOWN)))
  const turn = Math.atan2(x, -z) / (2 * Math.PI) + 0.5
  return row * BINS_ACROSS + Math.min(BINS_ACROSS - 1, Math.max(0, Math.floor(turn * BINS_ACROSS)))
}

/** What a matt surface is lit with from each bin: directions by the cosine, radiance added up. */
function lookAround(points: readonly LitPoint[], radianceAlong: RadianceAlong, salt: number): Float64Array {
  const sums = new Float64Array(BINS)
  for (let r = 0; r < RAYS; r++) {
    const { position: p, normal: n } = points[r % points.length]
    const [u1, u2] = evenly(r + salt * RAYS)
    const d = cosineDirection(n, u1, u2)
    if (d) sums[binOf(d[0], d[1], d[2])] += radianceAlong(p[0], p[1], p[2], d[0], d[1], d[2])
  }
  return sums
}

/** A unit direction about a normal, by the cosine; null in the rare case that there is none. */
export function cosineDirection(n: LitPoint['normal'], u1: number, u2: number): [number, number, number] | null {
  // A point of the unit ball that touches the surface here.
  const rise = 2 * u1 - 1
  const turn = 2 * Math.PI * u2
  const level = Math.sqrt(1 - rise * rise)
  const [x, y, z] = [n[0] + level * Math.cos(turn), n[1] + rise, n[2] + level * Math.sin(turn)]
  const length = Math.hypot(x, y, z)
  return length > 1e-6 ? [x / length, y / length, z / length] : null
}

function smooth(sums: Float64Array): Float64Array {
  const out = new Float64Array(BINS)
  for (let row = 0; row < BINS_DOWN; row++)
    for (let column = 0; column < BINS_ACROSS; column++) {
      let around = 0
      for (const [dr, dc] of [
        [0, 1],
        [0, -1],
        [1, 0],
        [-1, 0],
      ]) {
        const r = Math.min(BINS_DOWN - 1, Math.max(0, row + dr))
        around += sums[r * BINS_ACROSS + ((column + dc + BINS_ACROSS) % BINS_ACROSS)] / 4
      }
      const bin = row * BINS_ACROSS + column
      out[bin] = (1 - SPREAD) * sums[bin] + SPREAD * around
    }
  return out
}
