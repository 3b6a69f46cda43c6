import type { Database } from '../db/database'
import type { JobQueue } from '../jobs/queue'
import type { Storage } from '../storage/storage'

/** What every use case works with. */
export interface Context {
  db: Database
  storage: Storage
  queue: JobQueue
}
