import { eq, type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import type { Person } from '#shared/contracts/session.contract'
import { people } from '../tables/people.table'
import type { Connection } from './database'

/** Everything the asker may do follows from who they are; this file alone turns that into SQL. */
export type Actor = Pick<Person, 'id' | 'role'>

/**
 * Ids of the libraries a person may see: the house's, and those of clients whose team they are on. As text, for a prepared statement.
 * @param person the place of the person's id in it, such as $1
 */
export const visibleTo = (person: `$${number}`): string => `
  select l.id from libraries l
  where l.archived_at is null
    and (l.kind = 'house' or exists (select from library_members m where m.library_id = l.id and m.person_id = ${person}))`

/** The same, in brackets, as a part of a statement. */
export const visibleLibraries = (actor: Actor): SQL => {
  const [before, after] = visibleTo('$1').split('$1')
  return sql`(${sql.raw(before)}${actor.id}${sql.raw(after)})`
}

/** Condition on a column that holds a library's id. */
export const mayRead = (actor: Actor, libraryId: SQLWrapper): SQL => sql`${libraryId} in ${visibleLibraries(actor)}`

/** Leads build and approve; in libraries they may see. */
export const mayEdit = (actor: Actor): boolean => actor.role === 'lead'

export const toPerson = ({ id, name, email, role }: typeof people.$inferSelect): Person => ({ id, name, email, role })

export async function getPerson(db: Connection, id: number): Promise<Person | null> {
  const [person] = await db.select().from(people).where(eq(people.id, id))
  return person && person.deactivatedAt === null ? toPerson(person) : null
}

/** The same libraries as `visibleLibraries`, listed: for what is decided without a query of its own. */
export async function listVisibleLibraryIds(db: Connection, actor: Actor): Promise<Set<number>> {
  const { rows } = await db.execute<{ id: number }>(visibleLibraries(actor))
  return new Set(rows.map(r => r.id))
}
