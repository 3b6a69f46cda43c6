/** A reading that takes so long may be on a line that is dead: who asks waits for it no longer. */
const PATIENCE_MS = 5000

/**
 * Reads many things at once for many who ask: while one reading is under way, whoever asks waits for the next, which is for all of them. It
 * begins after each of them asked, so that nobody is told less than was true then. With nobody else about it begins at once.
 */
export class ReadTogether<Key, Value> {
  private running: Promise<unknown> | null = null
  private next: { keys: Set<Key>; values: Promise<ReadonlyMap<Key, Value>> } | null = null

  /** @param read a failure of it is one of all who waited for it */
  constructor(private readonly read: (keys: Key[]) => Promise<ReadonlyMap<Key, Value>>) {}

  async get(key: Key): Promise<Value | undefined> {
    this.next ??= this.plan()
    const { keys, values } = this.next
    keys.add(key)
    return (await values).get(key)
  }

  private plan(): NonNullable<typeof this.next> {
    const keys = new Set<Key>()
    const begin = () => {
      this.next = null
      const reading = this.read([...keys])
      const end = () => {
        if (this.running === reading) this.running = null
      }
      this.running = reading
      reading.then(end, end)
      return reading
    }
    return { keys, values: this.untilFree().then(begin) }
  }

  private async untilFree(): Promise<void> {
    if (!this.running) return
    let timer: NodeJS.Timeout | undefined
    const patience = new Promise<void>(resolve => {
      timer = setTimeout(resolve, PATIENCE_MS)
    })
    await Promise.race([this.running, patience]).catch(() => {})
    clearTimeout(timer)
  }
}
