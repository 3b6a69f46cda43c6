import { and, asc } from 'drizzle-orm'
import { type Actor, mayRead } from '../platform/access'
import { type Connection, isOneOf } from '../platform/database'
import { items } from '../tables/library.table'

export type ItemRow = typeof items.$inferSelect

/** Items that the asker may see, locked and by their ids; one that is gone or not theirs is not among them. */
export async function lockItems(tx: Connection, actor: Actor, ids: readonly number[]): Promise<Map<number, ItemRow>> {
  const rows = await tx
    .select()
    .from(items)
    .where(and(isOneOf(items.id, [...ids]), mayRead(actor, items.libraryId)))
    .orderBy(asc(items.id))
    .for('update')
  return new Map(rows.map(row => [row.id, row]))
}
