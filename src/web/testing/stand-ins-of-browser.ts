/** A worker that says what it is told to say, and keeps what was asked of it. */
export class ToldWorker<Order, News> {
  readonly orders: Order[] = []
  isGone = false
  onmessage: ((event: { data: News }) => void) | null = null

  postMessage(order: Order): void {
    this.orders.push(order)
  }
  terminate(): void {
    this.isGone = true
  }
}

/** Pixels as a canvas takes them, where there is no canvas. */
export class PlainImageData {
  readonly data: Uint8ClampedArray

  constructor(
    readonly width: number,
    readonly height: number,
  ) {
    this.data = new Uint8ClampedArray(width * height * 4)
  }
}
