/** Vertices of one mesh are fewer than that. */
const MOST_VERTICES = 2 ** 26
const EMPTY = -1
const FULL_SHARE = 0.6

/** A number for each edge of a mesh, whichever way round its ends are given. As a Map, in a third of its time. */
export class EdgeTable {
  private keys = new Float64Array(1024).fill(EMPTY)
  private values = new Int32Array(1024)
  private count = 0

  get(a: number, b: number): number | undefined {
    const slot = this.slotOf(keyOf(a, b))
    return this.keys[slot] === EMPTY ? undefined : this.values[slot]
  }

  set(a: number, b: number, value: number): void {
    if (this.count >= this.keys.length * FULL_SHARE) this.grow()
    const key = keyOf(a, b)
    const slot = this.slotOf(key)
    if (this.keys[slot] === EMPTY) this.count++
    this.keys[slot] = key
    this.values[slot] = value
  }

  /** Every edge with its number. */
  *entries(): Generator<{ a: number; b: number; value: number }> {
    for (let slot = 0; slot < this.keys.length; slot++) {
      const key = this.keys[slot]
      if (key !== EMPTY) yield { a: Math.floor(key / MOST_VERTICES), b: key % MOST_VERTICES, value: this.values[slot] }
    }
  }

  /** Where a key stands, or would. */
  private slotOf(key: number): number {
    const mask = this.keys.length - 1
    const [high, low] = [Math.floor(key / MOST_VERTICES), key % MOST_VERTICES]
    let slot = (Math.imul(high, 0x9e3779b1) ^ Math.imul(low, 0x85ebca6b)) >>> 0
    slot = (slot ^ (slot >>> 15)) & mask
    while (this.keys[slot] !== EMPTY && this.keys[slot] !== key) slot = (slot + 1) & mask
    return slot
  }

  private grow(): void {
    const { keys, values } = this
    this.keys = new Float64Array(keys.length * 2).fill(EMPTY)
    this.values = new Int32Array(keys.length * 2)
    for (let i = 0; i < keys.length; i++) {
      if (keys[i] === EMPTY) continue
      const slot = this.slotOf(keys[i])
      this.keys[slot] = keys[i]
      this.values[slot] = values[i]
    }
  }
}

const keyOf = (a: number, b: number): number => (a < b ? a * MOST_VERTICES + b : b * MOST_VERTICES + a)
