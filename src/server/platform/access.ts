import { type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import type { Person } from '#shared/contracts/session.contract'

/** Everything the asker may do follows from who they are; this file alone turns that into SQL. */
export type Actor = Pick<Person, 'id' | 'role'>

/** Ids of the libraries a person may see: the house's, and those of clients whose team they are on. */
export const visibleLibraries = (actor: Actor): SQL => sql`
  (select l.id from libraries l
   where l.kind = 'house'
      or exists (select from library_members m where m.library_id = l.id and m.person_id = ${actor.id}))`

/** Condition on a column that holds a library's id. */
export const mayRead = (actor: Actor, libraryId: SQLWrapper): SQL => sql`${libraryId} in ${visibleLibraries(actor)}`

/** Leads build and approve; in libraries they may see. */
export const mayEdit = (actor: Actor): boolean => actor.role === 'lead'
