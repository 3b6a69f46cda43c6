import { luminance } from '../../color/srgb'
import { rowSolidAngle } from '../../environment/sphere'
import type { FloatImage } from '../../image/image'
import { reduceFloat } from '../../image/reduce'

/** What a camera's rays see where they hit nothing: one colour, linear, or another map than the one that lights. */
export type Backdrop = readonly [number, number, number] | EnvironmentLight

/** Width of the table that directions are drawn from; radiance itself is always looked up at full size. */
const TABLE_WIDTH = 512

/**
 * Light from all around, importance sampled by luminance and solid angle with marginal and conditional tables
 * (Pharr, Jakob & Humphreys, "Physically Based Rendering", 14.2.4). Directions are unit, Y up, azimuth as in environment/sphere.
 */
export class EnvironmentLight {
  private readonly tableWidth: number
  private readonly tableHeight: number
  private readonly rowCdf: Float64Array
  private readonly columnCdf: Float64Array
  /** Density per steradian of each table cell. */
  private readonly density: Float32Array
  /** Where the search for a number begins: the interval that holds the lower edge of its bucket. */
  private readonly rowGuide: Uint16Array
  private readonly columnGuide: Uint16Array
  /** Sine of the elevation of each row's upper edge. */
  private readonly rowSine: Float64Array
  private readonly sineRotation: number
  private readonly cosineRotation: number
  /** Written by `sample`. */
  x = 0
  y = 0
  z = 0
  /** Per steradian; written by `sample`. */
  pdf = 0

  /**
   * @param map equirectangular linear RGB
   * @param gain factor on every radiance
   * @param rotationRad turns the map about the vertical, positive towards +azimuth
   */
  constructor(
    readonly map: FloatImage,
    readonly gain: number,
    rotationRad = 0,
  ) {
    this.sineRotation = Math.sin(rotationRad)
    this.cosineRotation = Math.cos(rotationRad)
    const w = Math.min(TABLE_WIDTH, map.width)
    const h = Math.max(1, Math.min(TABLE_WIDTH / 2, map.height))
    const small = w < map.width || h < map.height ? reduceFloat(map, w, h) : map
    this.tableWidth = w
    this.tableHeight = h
    this.rowCdf = new Float64Array(h + 1)
    this.columnCdf = new Float64Array(h * (w + 1))
    this.density = new Float32Array(w * h)
    const weights = new Float64Array(w * h)
    let mean = 0
    for (let p = 0; p < w * h; p++) {
      const at = p * small.channels
      const l = luminance(small.data[at], small.data[at + 1], small.data[at + 2])
      weights[p] = l > 0 && l < 1e30 ? l : 0
      mean += weights[p] / (w * h)
    }
    spreadToNeighbours(weights, w, h)
    let total = 0
    for (let j = 0; j < h; j++) {
      const dOmega = rowSolidAngle(j, w, h)
      let row = 0
      for (let i = 0; i < w; i++) {
        // A little everywhere, so that a black map still has a density.
        row += (weights[j * w + i] + mean * 0.01 + 1e-12) * dOmega
        this.columnCdf[j * (w + 1) + i + 1] = row
      }
      for (let i = 0; i < w; i++) {
        this.density[j * w + i] = weights[j * w + i] + mean * 0.01 + 1e-12
        this.columnCdf[j * (w + 1) + i + 1] /= row
      }
      total += row
      this.rowCdf[j + 1] = total
    }
    for (let j = 0; j <= h; j++) this.rowCdf[j] /= total
    for (let p = 0; p < w * h; p++) this.density[p] /= total
    this.rowSine = Float64Array.from({ length: h + 1 }, (_, j) => Math.sin(Math.PI / 2 - (Math.PI * j) / h))
    this.rowGuide = new Uint16Array(h)
    fillGuide(this.rowCdf, 0, h, this.rowGuide, 0)
    this.columnGuide = new Uint16Array(w * h)
    for (let j = 0; j < h; j++) fillGuide(this.columnCdf, j * (w + 1), w, this.columnGuide, j * w)
  }

  /** What `sample` draws by, for a tracer that draws by itself. */
  get tables() {
    const { tableWidth, tableHeight, rowCdf, columnCdf, density, rowGuide, columnGuide, rowSine } = this
    return {
      width: tableWidth,
      height: tableHeight,
      rowCdf,
      columnCdf,
      density,
      rowGuide,
      columnGuide,
      rowSine,
      sine: this.sineRotation,
      cosine: this.cosineRotation,
    }
  }

  /** Draws a direction into x, y, z and its density into pdf from two uniform numbers. */
  sample(u1: number, u2: number): void {
    const { tableWidth: w, tableHeight: h } = this
    const j = findInterval(this.rowCdf, 0, h, u1, this.rowGuide[Math.min(h - 1, (u1 * h) | 0)])
    const base = j * (w + 1)
    const i = findInterval(this.columnCdf, base, w, u2, this.columnGuide[j * w + Math.min(w - 1, (u2 * w) | 0)])
    const rowSpan = this.rowCdf[j + 1] - this.rowCdf[j]
    const columnSpan = this.columnCdf[base + i + 1] - this.columnCdf[base + i]
    const fy = rowSpan > 0 ? (u1 - this.rowCdf[j]) / rowSpan : 0.5
    const fx = columnSpan > 0 ? (u2 - this.columnCdf[base + i]) / columnSpan : 0.5
    this.aim(i, j, fx, fy)
  }

  /** The direction at a place within a cell of the table, shares of its width and height, into x, y, z, and the density of the cell. */
  aim(i: number, j: number, fx: number, fy: number): void {
    const w = this.tableWidth
    // Uniform in solid angle within the cell: linear in the sine of the elevation.
    const top = this.rowSine[j]
    const bottom = this.rowSine[j + 1]
    const sine = top + (bottom - top) * fy
    const cosine = Math.sqrt(Math.max(0, 1 - sine * sine))
    const azimuth = (2 * Math.PI * (i + fx)) / w - Math.PI
    const ex = cosine * Math.sin(azimuth)
    const ez = -cosine * Math.cos(azimuth)
    this.x = this.cosineRotation * ex - this.sineRotation * ez
    this.y = sine
    this.z = this.sineRotation * ex + this.cosineRotation * ez
    this.pdf = this.density[j * w + i]
  }

  /** Density per steradian with which `sample` draws a unit direction. */
  pdfOf(x: number, y: number, z: number): number {
    return this.density[this.cellAt(x, y, z)]
  }

  /** Density per steradian within a cell of the table. */
  densityOf(cell: number): number {
    return this.density[cell]
  }

  /** The cell of the table that a unit direction lies in, row by row. */
  cellAt(x: number, y: number, z: number): number {
    const ex = this.cosineRotation * x + this.sineRotation * z
    const ez = -this.sineRotation * x + this.cosineRotation * z
    const { tableWidth: w, tableHeight: h } = this
    const u = Math.atan2(ex, -ez) / (2 * Math.PI) + 0.5
    const v = 0.5 - Math.asin(Math.max(-1, Math.min(1, y))) / Math.PI
    const i = Math.min(w - 1, Math.max(0, Math.floor(u * w)))
    const j = Math.min(h - 1, Math.max(0, Math.floor(v * h)))
    return j * w + i
  }

  /** Bilinear linear RGB radiance from a unit direction, gain applied, into `dst` at 0, 1, 2. */
  radiance(x: number, y: number, z: number, dst: Float64Array): void {
    const ex = this.cosineRotation * x + this.sineRotation * z
    const ez = -this.sineRotation * x + this.cosineRotation * z
    const { width, height, channels, data } = this.map
    const u = (Math.atan2(ex, -ez) / (2 * Math.PI) + 0.5) * width - 0.5
    const v = (0.5 - Math.asin(Math.max(-1, Math.min(1, y))) / Math.PI) * height - 0.5
    const i = Math.floor(u)
    const j = Math.floor(v)
    const fx = u - i
    const fy = v - j
    const i0 = ((i % width) + width) % width
    const i1 = (i0 + 1) % width
    const j0 = Math.min(height - 1, Math.max(0, j))
    const j1 = Math.min(height - 1, Math.max(0, j + 1))
    const a = (j0 * width + i0) * channels
    const b = (j0 * width + i1) * channels
    const c = (j1 * width + i0) * channels
    const d = (j1 * width + i1) * channels
    const wa = (1 - fx) * (1 - fy) * this.gain
    const wb = fx * (1 - fy) * this.gain
    const wc = (1 - fx) * fy * this.gain
    const wd = fx * fy * this.gain
    for (let k = 0; k < 3; k++) dst[k] = data[a + k] * wa + data[b + k] * wb + data[c + k] * wc + data[d + k] * wd
  }
}

/**
 * Mean of the bilinear lookup over each cell, in place: 1/8, 3/4, 1/8 both ways. Lookups reach half a cell past a bright one, and
 * without this the dark neighbours of a sun would be drawn hardly ever and then count for far too much.
 */
function spreadToNeighbours(weights: Float64Array, width: number, height: number): void {
  const line = Float64Array.from(weights)
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const row = j * width
      line[row + i] =
        weights[row + i] * 0.75 + (weights[row + ((i + 1) % width)] + weights[row + ((i + width - 1) % width)]) * 0.125
    }
  for (let j = 0; j < height; j++)
    for (let i = 0; i < width; i++) {
      const up = Math.max(0, j - 1) * width + i
      const down = Math.min(height - 1, j + 1) * width + i
      weights[j * width + i] = line[j * width + i] * 0.75 + (line[up] + line[down]) * 0.125
    }
}

/** Largest i in 0..count−1 with cdf[base + i] <= u, searched upwards from `start`, which must not lie beyond it. */
function findInterval(cdf: Float64Array, base: number, count: number, u: number, start: number): number {
  let i = start
  while (i < count - 1 && cdf[base + i + 1] <= u) i++
  return i
}

/** For each of `count` equal buckets of [0, 1), the interval of the table that holds its lower edge. */
function fillGuide(cdf: Float64Array, base: number, count: number, dst: Uint16Array, at: number): void {
  let i = 0
  for (let bucket = 0; bucket < count; bucket++) {
    while (i < count - 1 && cdf[base + i + 1] <= bucket / count) i++
    dst[at + bucket] = i
  }
}
