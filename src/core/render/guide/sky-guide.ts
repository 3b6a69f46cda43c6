import type { EnvironmentLight } from '../lights/environment-light'
import type { LitPoint } from './guide-grid'
import {
  BINS,
  BINS_ACROSS,
  BINS_DOWN,
  type DrawnBin,
  drawBin,
  evenly,
  intervalOf,
  numberOfBin,
  placeIn,
  TABLE_NUMBERS,
  writeTable,
} from './guide-tables'

const RAYS = 512
/** As often a direction is drawn as if nothing were known, so that what was missed is found all the same. */
const UNGUIDED = 0.1

/** Whether anything solid lies in the way from a place into a direction. */
export type IsBlocked = (x: number, y: number, z: number, dx: number, dy: number, dz: number) => boolean

/**
 * Which parts of a light from all around come in, by place. Directions stay those of the light's own tables, parts of which are drawn more often
 * or more seldom. After Bitterli, Novák & Jarosz, "Portal-Masked Environment Map Sampling" (2015), in its aim.
 */
export class SkyGuide {
  /** First column of each bin of the light's table, and the bin of each column; likewise rows. */
  readonly columnBounds: Uint32Array
  readonly rowBounds: Uint32Array
  readonly binOfColumn: Uint32Array
  readonly binOfRow: Uint32Array
  /** For each bin column, the light's weight in it cumulated over the rows of the light's table. */
  readonly strips: Float64Array
  /** With how much more often than by the light alone each bin is drawn. */
  readonly tables: Float64Array
  private readonly drawn: DrawnBin = { row: 0, column: 0, across: 0, down: 0 }

  /** @param spots a table for each, by rays from its points one after the other */
  constructor(
    private readonly light: EnvironmentLight,
    spots: readonly (readonly LitPoint[])[],
    isBlocked: IsBlocked,
  ) {
    const { width, height, rowCdf, columnCdf } = light.tables
    ;[this.columnBounds, this.binOfColumn] = divide(width, BINS_ACROSS)
    ;[this.rowBounds, this.binOfRow] = divide(height, BINS_DOWN)
    this.strips = new Float64Array(BINS_ACROSS * (height + 1))
    for (let b = 0; b < BINS_ACROSS; b++)
      for (let j = 0; j < height; j++) {
        const line = j * (width + 1)
        const share = columnCdf[line + this.columnBounds[b + 1]] - columnCdf[line + this.columnBounds[b]]
        const at = b * (height + 1) + j
        this.strips[at + 1] = this.strips[at] + (rowCdf[j + 1] - rowCdf[j]) * share
      }
    const own = Float64Array.from({ length: BINS }, (_, bin) => {
      const strip = (bin % BINS_ACROSS) * (height + 1)
      const row = Math.floor(bin / BINS_ACROSS)
      return this.strips[strip + this.rowBounds[row + 1]] - this.strips[strip + this.rowBounds[row]]
    })
    this.tables = new Float64Array(spots.length * TABLE_NUMBERS)
    spots.forEach((points, table) => {
      const open = this.lookAround(points, isBlocked, table)
      // By the root: least noise where some of a bin's rays get through and some do not.
      const wanted = own.map((share, bin) => share * Math.sqrt(open[bin]))
      const whole = wanted.reduce((sum, w) => sum + w, 0)
      const shares = wanted.map((w, bin) => (whole > 0 ? (1 - UNGUIDED) * (w / whole) + UNGUIDED * own[bin] : own[bin]))
      writeTable(this.tables, table, shares, bin => (own[bin] > 0 ? shares[bin] / own[bin] : 0))
    })
  }

  /** Draws a direction by a table, as {@link EnvironmentLight.sample} does without: into the light's x, y, z and pdf. */
  sample(table: number, u1: number, u2: number): void {
    const { light, strips, tables, rowBounds, columnBounds, drawn } = this
    const { width, height, columnCdf } = light.tables
    drawBin(tables, table, u1, u2, drawn)
    const { row, column } = drawn
    const strip = column * (height + 1)
    const [j0, j1] = [rowBounds[row], rowBounds[row + 1]]
    const down = strips[strip + j0] + drawn.down * (strips[strip + j1] - strips[strip + j0])
    const j = j0 + intervalOf(strips, strip + j0, j1 - j0, down)
    const [i0, i1] = [columnBounds[column], columnBounds[column + 1]]
    const base = j * (width + 1)
    const across = columnCdf[base + i0] + drawn.across * (columnCdf[base + i1] - columnCdf[base + i0])
    const i = i0 + intervalOf(columnCdf, base + i0, i1 - i0, across)
    light.aim(
      i,
      j,
      placeIn(columnCdf[base + i], columnCdf[base + i + 1], across),
      placeIn(strips[strip + j], strips[strip + j + 1], down),
    )
    light.pdf *= numberOfBin(tables, table, row * BINS_ACROSS + column)
  }

  /** Density per steradian with which `sample` draws a unit direction by a table. */
  pdfOf(table: number, x: number, y: number, z: number): number {
    const cell = this.light.cellAt(x, y, z)
    return this.light.densityOf(cell) * numberOfBin(this.tables, table, this.binOf(cell))
  }

  private binOf(cell: number): number {
    const { width } = this.light.tables
    return this.binOfRow[Math.floor(cell / width)] * BINS_ACROSS + this.binOfColumn[cell % width]
  }

  /** Share of each bin's rays that get through. */
  private lookAround(points: readonly LitPoint[], isBlocked: IsBlocked, salt: number): Float64Array {
    const { light } = this
    const count = new Float64Array(BINS)
    const through = new Float64Array(BINS)
    let all = 0
    for (let r = 0; r < RAYS; r++) {
      const [u1, u2] = evenly(r + salt * RAYS)
      light.sample(u1, u2)
      const { x, y, z } = light
      const bin = this.binOf(light.cellAt(x, y, z))
      count[bin]++
      const { position: p, normal: n } = points[r % points.length]
      if (x * n[0] + y * n[1] + z * n[2] <= 0 || isBlocked(p[0], p[1], p[2], x, y, z)) continue
      through[bin]++
      all++
    }
    // A bin that hardly a ray was drawn into is taken to be as all are.
    const usual = all / RAYS
    return through.map((n, bin) => (n + usual) / (count[bin] + 1))
  }
}

/** Of so many columns, the first of each bin and one past the last, and the bin of each. */
function divide(count: number, bins: number): [bounds: Uint32Array, binOf: Uint32Array] {
  const binOf = Uint32Array.from({ length: count }, (_, i) => Math.floor(((i + 0.5) * bins) / count))
  const bounds = new Uint32Array(bins + 1)
  for (let bin = 0, i = 0; bin <= bins; bin++) {
    while (i < count && binOf[i] < bin) i++
    bounds[bin] = i
  }
  return [bounds, binOf]
}
