import { sql } from 'drizzle-orm'
import type pg from 'pg'
import { type LiveMessage, liveMessageSchema } from '#shared/contracts/live.contract'
import type { Connection } from './database'

const CHANNEL = 'muscovite_live'

/** Tells every server process; inside a transaction it goes out when that commits, and not at all when it does not. */
export const publish = (db: Connection, message: LiveMessage) =>
  db.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(message)})`)

/** Listens on a connection of its own, and takes it up again when it breaks. Returns how to stop. */
export async function listenToNotices(pool: pg.Pool, onMessage: (message: LiveMessage) => void): Promise<() => Promise<void>> {
  let stopped = false
  let client: pg.PoolClient | null = null
  const connect = async (): Promise<void> => {
    client = await pool.connect()
    client.on('notification', notice => {
      const parsed = liveMessageSchema.safeParse(JSON.parse(notice.payload ?? 'null'))
      if (parsed.success) onMessage(parsed.data)
    })
    client.on('error', () => {
      client?.release(true)
      client = null
      if (!stopped) setTimeout(() => connect().catch(() => {}), 1000)
    })
    await client.query(`listen ${CHANNEL}`)
  }
  await connect()
  return async () => {
    stopped = true
    client?.release(true)
  }
}
