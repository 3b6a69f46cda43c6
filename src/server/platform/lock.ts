import type pg from 'pg'

/**
 * Does something that one process at a time may do, however many there are. The lock is a connection's own: it is free again when its
 * holder ends, however that ends.
 * @returns null where somebody else is doing it right now
 */
export async function withLock<T>(pool: pg.Pool, name: string, work: () => Promise<T>): Promise<T | null> {
  const client = await pool.connect()
  let broken: Error | undefined
  try {
    const { rows } = await client.query('select pg_try_advisory_lock(hashtextextended($1, 0)) as taken', [name])
    if (!rows[0].taken) return null
    try {
      return await work()
    } finally {
      await client.query('select pg_advisory_unlock(hashtextextended($1, 0))', [name]).catch(error => {
        broken = error
      })
    }
  } finally {
    // A connection that could not give the lock back is closed, which does.
    client.release(broken)
  }
}
