import { eq, type SQL, type SQLWrapper, sql } from 'drizzle-orm'
import type { Person } from '#shared/contracts/session.contract'
import { people } from '../tables/people.table'
import type { Connection } from './database'

/** Everything the asker may do follows from who they are; this file alone turns that into SQL. */
export type Actor = Pick<Person, 'id' | 'role'>

/** The place of a person's id in a prepared statement. */
type PersonPlace = `$${number}`

/** Ids of the libraries a person may see: the house's, and those of clients whose team they are on; none for a guest. As text. */
export const visibleTo = (person: PersonPlace): string => `
  select l.id from libraries l
  where l.archived_at is null and exists (select from people p where p.id = ${person} and p.role <> 'guest')
    and (l.kind = 'house' or exists (select from library_members m where m.library_id = l.id and m.person_id = ${person}))`

/** Ids of the versions that projects show to a guest; none for anybody else. As text. */
export const shownTo = (person: PersonPlace): string => `
  select pn.version_id from pins pn where pn.project_id in (${projectsShownTo(person)})`

const projectsShownTo = (person: PersonPlace): string => `
  select g.project_id from project_guests g
  join people p on p.id = g.person_id join projects pr on pr.id = g.project_id join libraries l on l.id = pr.library_id
  where g.person_id = ${person} and p.role = 'guest' and l.archived_at is null`

/** A text with $1 for the asker, in brackets, as a part of a statement. */
const asPart = (text: string, actor: Actor): SQL => {
  const parts = text.split('$1').map(part => sql.raw(part))
  return sql`(${sql.join(parts, sql`${actor.id}`)})`
}

export const visibleLibraries = (actor: Actor): SQL => asPart(visibleTo('$1'), actor)

/** Condition on a project: its library is the asker's to see, or it is shown to them as a guest. */
export const maySeeProject = (actor: Actor, projectId: SQLWrapper, libraryId: SQLWrapper): SQL =>
  isGuest(actor) ? sql`${projectId} in ${asPart(projectsShownTo('$1'), actor)}` : mayRead(actor, libraryId)

/** Condition on a version: its item's library is the asker's to see, or a project shows it to them as a guest. */
export const maySeeVersion = (actor: Actor, versionId: SQLWrapper, libraryId: SQLWrapper): SQL =>
  isGuest(actor) ? sql`${versionId} in ${asPart(shownTo('$1'), actor)}` : mayRead(actor, libraryId)

/** Condition on a column that holds a library's id. */
export const mayRead = (actor: Actor, libraryId: SQLWrapper): SQL => sql`${libraryId} in ${visibleLibraries(actor)}`

export const isGuest = (actor: Actor): boolean => actor.role === 'guest'

/** Leads build and approve; in libraries they may see. */
export const mayEdit = (actor: Actor): boolean => actor.role === 'lead'

export const toPerson = ({ id, name, email, role }: typeof people.$inferSelect): Person => ({ id, name, email, role })

export async function getPerson(db: Connection, id: number): Promise<Person | null> {
  const [person] = await db.select().from(people).where(eq(people.id, id))
  return person && person.deactivatedAt === null ? toPerson(person) : null
}

export interface Seen {
  libraries: Set<number>
  /** Of a guest: what is shown to them. */
  projects: Set<number>
}

/** For what is decided without a query of its own. */
export async function listSeen(db: Connection, actor: Actor): Promise<Seen> {
  const [libraries, shown] = await Promise.all([
    listVisibleLibraryIds(db, actor),
    isGuest(actor)
      ? db.execute<{ id: number }>(sql`select s.project_id as id from ${asPart(projectsShownTo('$1'), actor)} s`)
      : null,
  ])
  return { libraries, projects: new Set(shown?.rows.map(r => r.id)) }
}

/** The same libraries as `visibleLibraries`, listed: for what is decided without a query of its own. */
export async function listVisibleLibraryIds(db: Connection, actor: Actor): Promise<Set<number>> {
  const { rows } = await db.execute<{ id: number }>(visibleLibraries(actor))
  return new Set(rows.map(r => r.id))
}
