import { percentile } from '../../math/statistics'
import type { MapRow, RowGauge } from './row-gauge'

const INTERIOR_PAIRS = 128
const EPSILON = 1e-6

/** The step across the left and right edges, and the steps between neighbouring columns inside. */
export class SeamGauge implements RowGauge {
  /** Left column of each pair. */
  private readonly columns: number[]
  private readonly sums: Float64Array
  private wrapSum = 0
  private rows = 0

  constructor(width: number) {
    const count = Math.min(INTERIOR_PAIRS, width - 1)
    this.columns = Array.from({ length: count }, (_, k) => Math.floor((k * (width - 1)) / count))
    this.sums = new Float64Array(count)
  }

  add({ light }: MapRow): void {
    this.rows++
    this.wrapSum += Math.abs(Math.log2((light[light.length - 1] + EPSILON) / (light[0] + EPSILON)))
    for (let k = 0; k < this.columns.length; k++) {
      const x = this.columns[k]
      this.sums[k] += Math.abs(Math.log2((light[x] + EPSILON) / (light[x + 1] + EPSILON)))
    }
  }

  /** Mean step across the edges, in stops. */
  get wrapStops(): number {
    return this.wrapSum / Math.max(1, this.rows)
  }

  /** What 95 of 100 steps inside stay below, in stops: the uprights of a room are more than one in a hundred. */
  get interiorStops(): number {
    return this.sums.length > 0 ? percentile(this.sums, 0.95) / Math.max(1, this.rows) : 0
  }
}
