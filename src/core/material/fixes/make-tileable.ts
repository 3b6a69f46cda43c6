import { fullScale, type Image } from '../../image/image'

/**
 * Makes the maps of a set wrap along an axis. A strip from the inside of the picture is laid over the seam, each of its two borders cut
 * where both pictures differ least (minimum error boundary cut, Efros & Freeman 2001), and blended over a few pixels; the place the
 * strip is taken from is the one with the cheapest cuts. All maps get the same strip and the same cuts, so that they still agree.
 * The size stays as it is, and with it the real-world width.
 * @param maps of one size, the one that is looked at first
 * @throws RangeError when their sizes differ
 */
export function makeTileable<T extends Image>(maps: readonly T[], axis: 'x' | 'y'): T[] {
  const [guide] = maps
  for (const m of maps)
    if (m.width !== guide.width || m.height !== guide.height)
      throw new RangeError(`maps of ${guide.width} x ${guide.height} and ${m.width} x ${m.height} cannot be cut alike`)
  const length = axis === 'x' ? guide.width : guide.height
  const rows = axis === 'x' ? guide.height : guide.width
  // How wide a border may wander, and how wide the strip is with both.
  const border = Math.max(4, Math.round(length / 16))
  const strip = border * 4
  if (strip * 2 > length) return [...maps]
  const read = lumaReader(guide, axis)
  /** The place that column `k` of the strip is laid over; the seam is at its middle. */
  const under = (k: number) => (k - strip / 2 + length) % length
  const differs = (from: number) => (k: number, row: number) => (read(from + k, row) - read(under(k), row)) ** 2
  const from = cheapestStart(length - strip, strip, border, rows, differs)
  const left = cutPath(border, rows, 1, differs(from))
  const right = cutPath(border, rows, 1, (k, row) => differs(from)(strip - border + k, row))
  return maps.map(m => {
    const data = m.data.slice()
    const { width, channels } = m
    const isWhole = !(data instanceof Float32Array)
    const at = (position: number, row: number) => (axis === 'x' ? row * width + position : position * width + row) * channels
    for (let row = 0; row < rows; row++)
      for (let k = 0; k < strip; k++) {
        const share = Math.min(ramp(k - left[row]), ramp(strip - border + right[row] - k))
        if (share <= 0) continue
        const [source, target] = [at(from + k, row), at(under(k), row)]
        for (let c = 0; c < channels; c++) {
          const value = m.data[source + c] * share + m.data[target + c] * (1 - share)
          data[target + c] = isWhole ? Math.round(value) : value
        }
      }
    return { ...m, data }
  })
}

/** From the old picture to the strip over three pixels. */
const ramp = (distance: number): number => Math.min(1, Math.max(0, (distance + 1.5) / 3))

function lumaReader({ width, channels, data }: Image, axis: 'x' | 'y'): (position: number, row: number) => number {
  const scale = 1 / (fullScale(data) * Math.min(3, channels))
  return (position, row) => {
    const p = (axis === 'x' ? row * width + position : position * width + row) * channels
    let sum = 0
    for (let c = 0; c < Math.min(3, channels); c++) sum += data[p + c]
    return sum * scale
  }
}

type Difference = (k: number, row: number) => number
const CANDIDATES = 48
/** Candidates are judged on every so manyth row. */
const SKIM = 4

function cheapestStart(last: number, strip: number, border: number, rows: number, differs: (from: number) => Difference): number {
  let best = { from: 0, cost: Number.POSITIVE_INFINITY }
  const step = Math.max(1, Math.floor(last / CANDIDATES))
  for (let from = 0; from <= last; from += step) {
    const error = differs(from)
    const cost =
      pathCost(cutPath(border, rows, SKIM, error), SKIM, error) +
      pathCost(
        cutPath(border, rows, SKIM, (k, row) => error(strip - border + k, row)),
        SKIM,
        (k, row) => error(strip - border + k, row),
      )
    if (cost < best.cost) best = { from, cost }
  }
  return best.from
}

const pathCost = (path: Int32Array, skim: number, error: Difference): number => {
  let sum = 0
  for (let j = 0; j < path.length; j++) sum += error(path[j], j * skim)
  return sum
}

/** The column in 0..border−1 at which to change over, for each (skimmed) row; it ends where it began, since rows wrap as well. */
function cutPath(border: number, rows: number, skim: number, error: Difference): Int32Array {
  const count = Math.max(1, Math.floor(rows / skim))
  const costs = new Float64Array(count * border)
  for (let j = 0; j < count; j++) for (let k = 0; k < border; k++) costs[j * border + k] = error(k, j * skim)
  const free = solve(costs, border, count, -1)
  return solve(costs, border, count, free[0])
}

/** Cheapest way down the rows, one column aside at most from row to row; through `ends` in the first and last row when it is ≥ 0. */
function solve(costs: Float64Array, border: number, count: number, ends: number): Int32Array {
  const sums = Float64Array.from(costs)
  if (ends >= 0) for (let k = 0; k < border; k++) if (k !== ends) sums[k] = Number.POSITIVE_INFINITY
  for (let j = 1; j < count; j++)
    for (let k = 0; k < border; k++) {
      const above = (j - 1) * border + k
      sums[j * border + k] += Math.min(
        sums[above],
        k > 0 ? sums[above - 1] : Number.POSITIVE_INFINITY,
        k + 1 < border ? sums[above + 1] : Number.POSITIVE_INFINITY,
      )
    }
  const path = new Int32Array(count)
  const lastRow = (count - 1) * border
  let k = ends
  if (k < 0) {
    k = 0
    for (let c = 1; c < border; c++) if (sums[lastRow + c] < sums[lastRow + k]) k = c
  }
  for (let j = count - 1; j >= 0; j--) {
    path[j] = k
    if (j === 0) break
    const above = (j - 1) * border
    let next = k
    for (const c of [k - 1, k + 1]) if (c >= 0 && c < border && sums[above + c] < sums[above + next]) next = c
    k = next
  }
  return path
}
