/** Reconstruction by filter importance sampling (Ernst, Stamminger & Greiner 2006): each sample belongs to one pixel. */

const RADIUS = 1.5
const STEPS = 256

/** Inverse of the cumulative Blackman–Harris window (Harris 1978, minimum 4-term) over ±RADIUS pixels. */
export const FILTER_TABLE = (() => {
  const fine = 4096
  const cdf = new Float64Array(fine + 1)
  for (let i = 0; i < fine; i++) {
    const x = (2 * Math.PI * (i + 0.5)) / fine
    cdf[i + 1] = cdf[i] + 0.35875 - 0.48829 * Math.cos(x) + 0.14128 * Math.cos(2 * x) - 0.01168 * Math.cos(3 * x)
  }
  const table = new Float64Array(STEPS + 1)
  let at = 0
  for (let s = 0; s <= STEPS; s++) {
    const wanted = (cdf[fine] * s) / STEPS
    while (at < fine && cdf[at + 1] < wanted) at++
    const span = cdf[Math.min(at + 1, fine)] - cdf[at]
    table[s] = ((at + (span > 0 ? (wanted - cdf[at]) / span : 0)) / fine) * 2 * RADIUS - RADIUS
  }
  return table
})()

/** Draws an offset from the pixel centre in pixels into dst 0 and 1. */
export function sampleFilter(u1: number, u2: number, dst: Float64Array): void {
  dst[0] = invert(u1)
  dst[1] = invert(u2)
}

function invert(u: number): number {
  const x = u * STEPS
  const i = Math.min(STEPS - 1, Math.floor(x))
  return FILTER_TABLE[i] + (FILTER_TABLE[i + 1] - FILTER_TABLE[i]) * (x - i)
}
