import type { Database } from './database'
import type { JobQueue } from './queue'
import type { Storage } from './storage/storage'

/** What every use case works with. */
export interface Context {
  db: Database
  storage: Storage
  queue: JobQueue
}
