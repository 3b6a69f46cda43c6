import type { Connection } from '../db/database'
import { events } from '../db/library.table'

export interface NewEvent {
  personId: number | null
  subject: 'item' | 'batch' | 'project' | 'feed' | 'standard'
  subjectId: number
  verb: string
  before?: unknown
  after?: unknown
}

/** Call with the transaction of the change itself. */
export const recordEvents = (tx: Connection, list: readonly NewEvent[]) =>
  list.length > 0 ? tx.insert(events).values([...list]) : Promise.resolve()
