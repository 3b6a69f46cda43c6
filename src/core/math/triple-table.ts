/** Numbers triples of 32-bit integers in the order of their first appearance; open addressing in flat arrays, for millions of them. */
export class TripleTable {
  private readonly mask: number
  private readonly slots: Int32Array
  private readonly keys: Int32Array
  size = 0

  /** @param most how many different triples will come at most */
  constructor(most: number) {
    const capacity = 2 ** Math.ceil(Math.log2(Math.max(16, most * 2)))
    this.mask = capacity - 1
    this.slots = new Int32Array(capacity).fill(-1)
    this.keys = new Int32Array(Math.max(1, most) * 3)
  }

  /** The number of a triple, new or known. */
  idOf(a: number, b: number, c: number): number {
    const { slots, keys, mask } = this
    let hash = Math.imul(a, 0x9e3779b1) ^ Math.imul(b, 0x85ebca77) ^ Math.imul(c, 0xc2b2ae3d)
    hash = Math.imul(hash ^ (hash >>> 15), 0x2c1b3c6d)
    for (let slot = (hash ^ (hash >>> 13)) & mask; ; slot = (slot + 1) & mask) {
      const id = slots[slot]
      if (id < 0) {
        const fresh = this.size++
        slots[slot] = fresh
        keys[fresh * 3] = a
        keys[fresh * 3 + 1] = b
        keys[fresh * 3 + 2] = c
        return fresh
      }
      if (keys[id * 3] === a && keys[id * 3 + 1] === b && keys[id * 3 + 2] === c) return id
    }
  }
}
