import type { MapRow, RowGauge } from './row-gauge'

/** Past these a picture has more than 8 bits, and counting on would only take time. */
const MOST_LEVELS = 257
/** Places of the table of seen values: a power of two, so roomy that a value is found at the first or second. */
const SLOTS = 4096

/** How many different values the green channel holds; as long as they are few, between which they lie. */
export class LevelGauge implements RowGauge {
  /** Different values, counted up to 257. */
  levels = 0
  /** Lowest value above 0, and the highest. Not kept up once there are more levels than 8 bits can hold. */
  low = Number.POSITIVE_INFINITY
  high = 0
  /** Values as the bits of their floats; a set of numbers is ten times as slow. */
  private readonly seen = new Uint32Array(SLOTS)
  private readonly isUsed = new Uint8Array(SLOTS)

  add({ raw }: MapRow): void {
    const words = new Uint32Array(raw.buffer, raw.byteOffset, raw.length)
    for (let i = 1; i < words.length && this.levels < MOST_LEVELS; i += 3) {
      const word = words[i]
      let slot = (Math.imul(word, 0x9e3779b1) >>> 20) & (SLOTS - 1)
      while (this.isUsed[slot] && this.seen[slot] !== word) slot = (slot + 1) & (SLOTS - 1)
      if (this.isUsed[slot]) continue
      this.isUsed[slot] = 1
      this.seen[slot] = word
      this.levels++
      const v = raw[i]
      if (v > 0 && v < this.low) this.low = v
      if (v > this.high) this.high = v
    }
  }
}
