/** Indices by weight, the heaviest on top; weights only ever become less. */
export class Heap {
  private readonly order: Int32Array
  private readonly at: Int32Array
  private size: number

  constructor(private readonly weights: Float64Array) {
    this.size = weights.length
    this.order = Int32Array.from(weights, (_, i) => i)
    this.at = Int32Array.from(weights, (_, i) => i)
    for (let place = (this.size >> 1) - 1; place >= 0; place--) this.down(place)
  }

  pop(): number {
    const [top] = this.order
    const last = this.order[--this.size]
    this.at[top] = -1
    if (last !== top) {
      this.order[0] = last
      this.at[last] = 0
      this.down(0)
    }
    return top
  }

  /** After a weight became less. */
  sink(index: number): void {
    if (this.at[index] >= 0) this.down(this.at[index])
  }

  private isHeavier(a: number, b: number): boolean {
    const difference = this.weights[this.order[a]] - this.weights[this.order[b]]
    // By index where they are the same, so that nothing depends on chance.
    return difference > 0 || (difference === 0 && this.order[a] < this.order[b])
  }

  private swap(a: number, b: number): void {
    const [p, q] = [this.order[a], this.order[b]]
    this.order[a] = q
    this.order[b] = p
    this.at[q] = a
    this.at[p] = b
  }

  private down(place: number): void {
    for (let parent = place; ; ) {
      let best = parent
      for (const child of [2 * parent + 1, 2 * parent + 2]) if (child < this.size && this.isHeavier(child, best)) best = child
      if (best === parent) return
      this.swap(parent, best)
      parent = best
    }
  }
}
