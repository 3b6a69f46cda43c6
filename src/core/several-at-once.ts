/**
 * Does something to every member, so many at once, begun in their order. After one that fails none is begun any more, and those that are
 * under way are waited for.
 * @throws what the first that failed has thrown
 */
export async function severalAtOnce<T>(members: Iterable<T>, atOnce: number, work: (member: T) => Promise<void>): Promise<void> {
  // All lanes take from one.
  const waiting = members[Symbol.iterator]()
  const failures: unknown[] = []
  const lane = async () => {
    for (let next = waiting.next(); !next.done && failures.length === 0; next = waiting.next()) {
      try {
        await work(next.value)
      } catch (error) {
        failures.push(error)
      }
    }
  }
  await Promise.all(Array.from({ length: atOnce }, lane))
  if (failures.length > 0) throw failures[0]
}
