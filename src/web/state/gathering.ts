/** Many things change at once when a delivery is accepted; open views are refreshed at most this often. */
const GATHER_MS = 700

/** What came together within a moment, each once. A page that nobody sees gathers until somebody does. */
export class Gathering<T> {
  private readonly gathered = new Map<string, T>()
  private timer: ReturnType<typeof setTimeout> | null = null

  constructor(private readonly take: (things: T[]) => void) {
    document.addEventListener('visibilitychange', this.begin)
  }

  add(things: readonly T[]): void {
    for (const thing of things) this.gathered.set(JSON.stringify(thing), thing)
    this.begin()
  }

  stop(): void {
    if (this.timer) clearTimeout(this.timer)
    document.removeEventListener('visibilitychange', this.begin)
  }

  private readonly begin = (): void => {
    if (this.gathered.size > 0 && document.visibilityState === 'visible') this.timer ??= setTimeout(this.flush, GATHER_MS)
  }

  private readonly flush = (): void => {
    this.timer = null
    const things = [...this.gathered.values()]
    this.gathered.clear()
    this.take(things)
  }
}
