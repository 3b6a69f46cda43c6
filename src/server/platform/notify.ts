import { sql } from 'drizzle-orm'
import pg from 'pg'
import { type LiveMessage, liveMessageSchema } from '#shared/contracts/live.contract'
import { comeBack } from './come-back'
import type { Connection } from './database'

const CHANNEL = 'muscovite_live'
/** A notice carries less than 8,000 bytes. */
const MOST_ROWS = 500

/** Tells every server process; inside a transaction it goes out when that commits, and not at all when it does not. */
export const publish = (db: Connection, message: LiveMessage) => {
  const told = 'rowIds' in message && (message.rowIds?.length ?? 0) > MOST_ROWS ? { ...message, rowIds: undefined } : message
  return db.execute(sql`select pg_notify(${CHANNEL}, ${JSON.stringify(told)})`)
}

/**
 * Listens on a connection of its own, and takes it up again whenever it breaks, however long the database is away. What was told
 * meanwhile nobody heard, so everybody is then told that anything may have changed. Returns how to stop.
 */
export async function listenToNotices(
  databaseUrl: string,
  onMessage: (message: LiveMessage) => void,
): Promise<() => Promise<void>> {
  let stopped = false
  let client: pg.Client | null = null
  const connect = async (): Promise<void> => {
    const next = new pg.Client({ connectionString: databaseUrl, keepAlive: true })
    next.on('notification', notice => {
      const parsed = liveMessageSchema.safeParse(JSON.parse(notice.payload ?? 'null'))
      if (parsed.success) onMessage(parsed.data)
    })
    // A broken connection also ends, which is what is waited for.
    next.on('error', () => {})
    await next.connect()
    await next.query(`listen ${CHANNEL}`)
    client = next
    next.once('end', () => {
      client = null
      void comeBack(connect, () => !stopped).then(isBack => {
        if (isBack) onMessage({ topic: 'anything' })
      })
    })
  }
  await connect()
  return async () => {
    stopped = true
    await client?.end().catch(() => {})
  }
}
