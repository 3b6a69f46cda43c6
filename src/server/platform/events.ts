import { events } from '../tables/library.table'
import type { Connection } from './database'

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
