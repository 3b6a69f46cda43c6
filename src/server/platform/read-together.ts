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
    return { keys, values: (this.running ?? Promise.resolve()).then(begin, begin) }
  }
}
