import pg from 'pg'
import { comeBack } from './come-back'
import { WAKE_CHANNEL } from './queue'

/** First number of the advisory locks that say that a worker lives; the second is the worker's own. */
export const ALIVE_LOCK = 0x6d75

export interface WorkerPresence {
  /** The worker's number while it is known to be alive; null while its connection is being taken up again. */
  id(): number | null
  stop(): Promise<void>
}

/**
 * Says that this process works, on a connection of its own: it holds the lock of its number there and hears where something waits. When
 * the connection is lost the others may take its jobs for left behind, so it comes back under a new number.
 */
export async function announceWorker(
  databaseUrl: string,
  onWake: (queue: string | null) => void,
  onError: (error: Error) => void,
): Promise<WorkerPresence> {
  let stopped = false
  let current: { client: pg.Client; id: number } | null = null
  const connect = async (): Promise<void> => {
    const client = new pg.Client({ connectionString: databaseUrl, keepAlive: true })
    client.on('notification', notice => onWake(notice.payload ?? null))
    // Without a listener a broken connection would end the process; what follows is told by 'end'.
    client.on('error', onError)
    await client.connect()
    const { rows } = await client.query('insert into workers default values returning id')
    const id: number = rows[0].id
    await client.query('select pg_advisory_lock($1, $2)', [ALIVE_LOCK, id])
    await client.query(`listen ${WAKE_CHANNEL}`)
    current = { client, id }
    client.once('end', () => {
      current = null
      void comeBack(connect, () => !stopped, onError)
    })
    // Whatever was put in line while nobody listened.
    onWake(null)
  }
  await connect()
  return {
    id: () => current?.id ?? null,
    stop: async () => {
      stopped = true
      await current?.client.end().catch(() => {})
    },
  }
}
