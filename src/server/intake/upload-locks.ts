import type { Lock, Locker } from '@tus/server'
import pg from 'pg'
import { ProblemError } from '../platform/problem'

const CHANNEL = 'muscovite_uploads'
const PATIENCE_MS = 30_000
const LOOK_EVERY_MS = 100

const heldElsewhere = () =>
  new ProblemError('conflict', 'This upload is being written over another connection; it is tried again.')

/**
 * Who writes to which upload, over all servers: a lock of the database for each, on one connection, so that uploads under way hold none
 * of those that requests need. Whoever wants an upload that somebody else holds, such as a sender who came back over another server while
 * the old line is not known to be dead yet, asks for it, and the holder lets go.
 */
export class UploadLocks implements Locker {
  private readonly held = new Map<string, () => Promise<void> | void>()
  private client: Promise<pg.Client> | null = null
  private line: Promise<unknown> = Promise.resolve()
  private closed = false

  constructor(private readonly databaseUrl: string) {}

  newLock(id: string): Lock {
    return {
      lock: async (signal, letGo) => {
        // In the form that the upload server answers with.
        if (!(await this.take(id, letGo, signal))) throw { status_code: 409, body: JSON.stringify(heldElsewhere().toProblem()) }
      },
      unlock: () => this.giveBack(id),
    }
  }

  /** Does something that one server at a time may do for an upload. */
  async run<T>(id: string, work: () => Promise<T>): Promise<T> {
    if (!(await this.take(id, () => {}, new AbortController().signal))) throw heldElsewhere()
    try {
      return await work()
    } finally {
      await this.giveBack(id)
    }
  }

  async close(): Promise<void> {
    this.closed = true
    await (await this.client?.catch(() => null))?.end().catch(() => {})
  }

  private async take(id: string, letGo: () => Promise<void> | void, signal: AbortSignal): Promise<boolean> {
    for (const until = Date.now() + PATIENCE_MS; Date.now() < until && !signal.aborted; ) {
      const holder = this.held.get(id)
      if (holder) await holder()
      else {
        // Noted before anything is waited for: on one connection the database's lock does not keep two of its own requests apart.
        this.held.set(id, letGo)
        const isTaken = await this.tryLock(id).catch(error => {
          this.held.delete(id)
          throw error
        })
        if (isTaken) return true
        this.held.delete(id)
      }
      await new Promise(resolve => setTimeout(resolve, LOOK_EVERY_MS))
    }
    return false
  }

  private async tryLock(id: string): Promise<boolean> {
    const [{ taken }] = await this.ask('select pg_try_advisory_lock(hashtextextended($1, 1)) as taken', [id])
    if (!taken) await this.ask('select pg_notify($1, $2)', [CHANNEL, id])
    return taken
  }

  private async giveBack(id: string): Promise<void> {
    this.held.delete(id)
    await this.ask('select pg_advisory_unlock(hashtextextended($1, 1))', [id]).catch(() => {})
  }

  /** One after the other, on the one connection. */
  private ask(text: string, values: unknown[]): Promise<{ taken: boolean }[]> {
    const asked = this.line.then(async () => (await (await this.connect()).query(text, values)).rows)
    this.line = asked.catch(() => {})
    return asked
  }

  private connect(): Promise<pg.Client> {
    this.client ??= this.open().catch(error => {
      this.client = null
      throw error
    })
    return this.client
  }

  private async open(): Promise<pg.Client> {
    const client = new pg.Client({ connectionString: this.databaseUrl, keepAlive: true })
    client.on('error', () => {})
    client.on('notification', ({ payload }) => void this.held.get(payload ?? '')?.())
    client.once('end', () => {
      this.client = null
      // With the connection its locks are gone: somebody else may have them by now.
      if (!this.closed) for (const letGo of this.held.values()) void letGo()
      this.held.clear()
    })
    await client.connect()
    await client.query(`listen ${CHANNEL}`)
    return client
  }
}
