import { and, eq } from 'drizzle-orm'
import type { Library } from '#shared/contracts/session.contract'
import { type Actor, mayRead } from '../platform/access'
import type { Connection } from '../platform/database'
import { notFound } from '../platform/problem'
import { libraries } from '../tables/people.table'

export const listLibraries = (db: Connection, actor: Actor): Promise<Library[]> =>
  db.select().from(libraries).where(mayRead(actor, libraries.id)).orderBy(libraries.id)

/** The library of that key; for somebody outside it is as if it did not exist. */
export async function getLibrary(db: Connection, actor: Actor, key: string): Promise<Library> {
  const [found] = await db
    .select()
    .from(libraries)
    .where(and(eq(libraries.key, key), mayRead(actor, libraries.id)))
  if (!found) throw notFound('This library')
  return found
}
