import { and, eq, sql } from 'drizzle-orm'
import { events } from '../tables/library.table'
import type { Connection } from './database'

export interface NewEvent {
  personId: number | null
  subject: 'item' | 'batch' | 'project' | 'feed' | 'standard' | 'person' | 'library'
  subjectId: number
  verb: string
  before?: unknown
  after?: unknown
}

/** Call with the transaction of the change itself. */
export const recordEvents = (tx: Connection, list: readonly NewEvent[]) =>
  list.length > 0 ? tx.insert(events).values([...list]) : Promise.resolve()

/** Whether what an event tells has been taken back. The log only grows: taking back is an event of its own, which names what it undoes. */
export async function isUndone(tx: Connection, { id, subject, subjectId }: typeof events.$inferSelect): Promise<boolean> {
  const undoes = sql`${events.after} ->> 'undoes' = ${String(id)}`
  const rows = await tx
    .select({ id: events.id })
    .from(events)
    .where(and(eq(events.subject, subject), eq(events.subjectId, subjectId), undoes))
    .limit(1)
  return rows.length > 0
}
