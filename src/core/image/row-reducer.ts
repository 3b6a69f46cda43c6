import { createFloatImage, type FloatImage } from './image'
import type { PictureRows } from './picture-rows'

/**
 * Area-exact reduction of rows that come one after the other from the top: the mean of what each smaller pixel covers, in the values
 * given, hence in linear light. Never negative where the source is not, and nothing rings about a sun.
 */
export class RowReducer {
  private readonly spans: { start: number; weights: number[] }[]
  private readonly current: Float32Array
  private readonly isHalf: boolean
  private filled = 0
  private y = 0
  private readonly stepY: number

  /**
   * @param emit gets each finished row of `width` * 3 values, which is used again
   * @throws RangeError when a side would grow
   */
  constructor(
    srcWidth: number,
    private readonly srcHeight: number,
    readonly width: number,
    readonly height: number,
    private readonly emit: (row: Float32Array, y: number) => void,
  ) {
    if (!(width >= 1 && height >= 1 && width <= srcWidth && height <= srcHeight))
      throw new RangeError(`${srcWidth} x ${srcHeight} cannot be reduced to ${width} x ${height}`)
    this.current = new Float32Array(width * 3)
    this.isHalf = srcWidth === width * 2 && srcHeight === height * 2
    this.stepY = srcHeight / height
    this.spans = this.isHalf ? [] : coverage(srcWidth, width)
  }

  /** The next row of the source. */
  add(row: Float32Array): void {
    if (this.isHalf) {
      this.addHalf(row)
      return
    }
    // A source row lies in one smaller row or across the border of two.
    const top = this.filled
    this.filled++
    const boundary = (this.y + 1) * this.stepY
    const inside = Math.min(this.filled, boundary) - top
    if (inside > 0) this.accumulate(row, inside / this.stepY)
    if (this.filled < boundary - 1e-9 && this.filled < this.srcHeight) return
    this.finish()
    const rest = this.filled - boundary
    if (rest > 1e-9 && this.y < this.height) this.accumulate(row, rest / this.stepY)
  }

  private addHalf(row: Float32Array): void {
    const { current, width } = this
    const isSecond = this.filled % 2 === 1
    this.filled++
    for (let x = 0, from = 0, to = 0; x < width; x++, from += 6, to += 3) {
      current[to] += 0.25 * (row[from] + row[from + 3])
      current[to + 1] += 0.25 * (row[from + 1] + row[from + 4])
      current[to + 2] += 0.25 * (row[from + 2] + row[from + 5])
    }
    if (isSecond) this.finish()
  }

  private accumulate(row: Float32Array, weightY: number): void {
    const { current } = this
    for (let x = 0; x < this.width; x++) {
      const { start, weights } = this.spans[x]
      for (let c = 0; c < 3; c++) {
        let sum = 0
        for (let k = 0; k < weights.length; k++) sum += row[(start + k) * 3 + c] * weights[k]
        current[x * 3 + c] += sum * weightY
      }
    }
  }

  private finish(): void {
    if (this.y >= this.height) return
    this.emit(this.current, this.y++)
    this.current.fill(0)
  }
}

/** Which source cells, with what weight, each of `count` equal destination cells covers. Weights sum to 1. */
export function coverage(sourceCount: number, count: number): { start: number; weights: number[] }[] {
  const step = sourceCount / count
  return Array.from({ length: count }, (_, i) => {
    const from = i * step
    const to = Math.min((i + 1) * step, sourceCount)
    const start = Math.floor(from)
    const weights: number[] = []
    for (let cell = start; cell < to - 1e-9; cell++) weights.push((Math.min(cell + 1, to) - Math.max(cell, from)) / (to - from))
    return { start, weights }
  })
}

/** A picture reduced to a width while it is read, in its own proportions. */
export function reduceRows(rows: PictureRows, width: number): FloatImage {
  const image = createFloatImage(width, Math.max(1, Math.round((rows.height * width) / rows.width)), 3)
  const reducer = new RowReducer(rows.width, rows.height, width, image.height, (row, y) => image.data.set(row, y * width * 3))
  rows.forEachRow(row => reducer.add(row))
  return image
}
