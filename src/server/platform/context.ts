import type pg from 'pg'
import type { Database } from './database'
import type { FetchOutside } from './fetch-outside'
import type { JobQueue } from './queue'
import type { Storage } from './storage/storage'

/** What every use case works with. */
export interface Context {
  db: Database
  /** Of the same database; for locks that outlast a transaction. */
  pool: pg.Pool
  storage: Storage
  queue: JobQueue
  fetchOutside: FetchOutside
}
