/** Finalizer of a 32-bit integer hash with good avalanche (Wellons, "Prospecting for hash functions", 2018). */
export function hash32(value: number): number {
  let x = value | 0
  x = Math.imul(x ^ (x >>> 16), 0x21f0aaad)
  x = Math.imul(x ^ (x >>> 15), 0x735a2d97)
  return (x ^ (x >>> 15)) >>> 0
}

export const hashCombine = (seed: number, value: number): number => hash32(seed ^ (Math.imul(value, 0x9e3779b9) + 0x85ebca6b))

/** A seeded stream of uniform numbers. */
export interface Random {
  /** Uniform in [0, 1). */
  next(): number
  /** Uniform in [low, high). */
  between(low: number, high: number): number
  /** Uniform integer in [0, count). */
  index(count: number): number
}

/** Mulberry32: small, fast and equal on every engine. Not for secrets. */
export function createRandom(seed: number): Random {
  let state = hash32(seed)
  const next = () => {
    state = (state + 0x6d2b79f5) | 0
    let t = Math.imul(state ^ (state >>> 15), 1 | state)
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296
  }
  return {
    next,
    between: (low, high) => low + (high - low) * next(),
    index: count => Math.floor(next() * count),
  }
}
