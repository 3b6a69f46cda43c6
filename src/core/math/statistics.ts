/** The value below which `share` (0..1) of the values lie, linear between ranks. NaN for no values. */
export function percentile(values: ArrayLike<number>, share: number): number {
  const sorted = Float64Array.from(values).sort()
  if (sorted.length === 0) return Number.NaN
  const rank = Math.min(Math.max(share, 0), 1) * (sorted.length - 1)
  const low = Math.floor(rank)
  const high = Math.min(low + 1, sorted.length - 1)
  return sorted[low] + (sorted[high] - sorted[low]) * (rank - low)
}

export function mean(values: ArrayLike<number>): number {
  let sum = 0
  for (let i = 0; i < values.length; i++) sum += values[i]
  return values.length ? sum / values.length : Number.NaN
}

/** Pearson correlation of two equally long series; 0 where either is constant. */
export function correlation(a: ArrayLike<number>, b: ArrayLike<number>): number {
  const ma = mean(a)
  const mb = mean(b)
  let ab = 0
  let aa = 0
  let bb = 0
  for (let i = 0; i < a.length; i++) {
    const da = a[i] - ma
    const db = b[i] - mb
    ab += da * db
    aa += da * da
    bb += db * db
  }
  return aa > 0 && bb > 0 ? ab / Math.sqrt(aa * bb) : 0
}

const bits = new Uint32Array(1)
const asFloat = new Float32Array(bits.buffer)

/**
 * Percentiles of weighted values over many magnitudes: 128 bins for each power of two, found from the bits of the value as a
 * 32-bit float (its exponent and the first seven bits of its fraction), so that adding costs no logarithm. Built once, asked often;
 * good to 0.4 % of a value, in constant memory.
 */
export class LogHistogram {
  private static readonly DROPPED_BITS = 16
  private readonly weights = new Float64Array(1 << (31 - LogHistogram.DROPPED_BITS))
  private total = 0

  /** Values at or below zero count as the lowest bin. */
  add(value: number, weight: number): void {
    asFloat[0] = value
    const bin = value > 0 ? bits[0] >>> LogHistogram.DROPPED_BITS : 0
    this.weights[bin] += weight
    this.total += weight
  }

  /** Adds a row of finite values of one weight; faster than one by one. */
  addAll(values: Float32Array, weight: number): void {
    const words = new Uint32Array(values.buffer, values.byteOffset, values.length)
    const { weights } = this
    for (let i = 0; i < words.length; i++) weights[words[i] >>> 31 ? 0 : words[i] >>> LogHistogram.DROPPED_BITS] += weight
    this.total += weight * values.length
  }

  /** Share of the weight at or below zero. */
  get emptyShare(): number {
    return this.total > 0 ? this.weights[0] / this.total : 0
  }

  /** 0 where the share ends among values at or below zero. */
  percentile(share: number): number {
    const wanted = share * this.total
    let sum = 0
    for (let bin = 0; bin < this.weights.length; bin++) {
      sum += this.weights[bin]
      if (sum >= wanted && sum > 0) {
        if (bin === 0) return 0
        bits[0] = (bin << LogHistogram.DROPPED_BITS) | (1 << (LogHistogram.DROPPED_BITS - 1))
        return asFloat[0]
      }
    }
    return 0
  }
}
