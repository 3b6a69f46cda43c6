import { and, eq, sql } from 'drizzle-orm'
import type { ManagedLibrary } from '#shared/contracts/people.contract'
import type { Library } from '#shared/contracts/session.contract'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { notFound, ProblemError } from '../platform/problem'
import { libraries, libraryMembers } from '../tables/people.table'

const SHOWN = { id: libraries.id, key: libraries.key, title: libraries.title, kind: libraries.kind }

export const listLibraries = (db: Connection, actor: Actor): Promise<Library[]> =>
  db.select(SHOWN).from(libraries).where(mayRead(actor, libraries.id)).orderBy(libraries.id)

/** The studio's own library. */
export async function getHouseLibraryId(db: Connection): Promise<number> {
  const [house] = await db.select().from(libraries).where(eq(libraries.kind, 'house')).orderBy(libraries.id).limit(1)
  if (!house) throw notFound('A house library')
  return house.id
}

/** The library of that key; for somebody outside it is as if it did not exist. */
export async function getLibrary(db: Connection, actor: Actor, key: string): Promise<Library> {
  const [found] = await db
    .select(SHOWN)
    .from(libraries)
    .where(and(eq(libraries.key, key), mayRead(actor, libraries.id)))
  if (!found) throw notFound('This library')
  return found
}

/** Libraries somebody may see, archived ones too. */
const ofTheirs = (actor: Actor) => sql`
  (l.kind = 'house' or exists (select from library_members m where m.library_id = l.id and m.person_id = ${actor.id}))`

const leadsOnly = (actor: Actor): void => {
  if (!mayEdit(actor)) throw new ProblemError('notAllowed', 'A library lead decides about libraries.')
}

export async function listManagedLibraries(db: Connection, actor: Actor): Promise<ManagedLibrary[]> {
  const { rows } = await db.execute<ManagedLibrary & Record<string, unknown>>(sql`
    select l.id, l.title, l.kind, l.archived_at is not null as "isArchived",
      (select count(*)::int from items i where i.library_id = l.id and i.state <> 'withdrawn') as items,
      case when l.kind = 'house' then (select count(*)::int from people p where p.deactivated_at is null)
        else (select count(*)::int from library_members m join people p on p.id = m.person_id
              where m.library_id = l.id and p.deactivated_at is null) end as people
    from libraries l where ${ofTheirs(actor)} order by l.archived_at is not null, l.id`)
  return rows
}

/** Letters, digits and dashes of a title, for addresses and the command line. */
const toKey = (title: string): string =>
  title
    .normalize('NFD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-|-$/g, '') || 'client'

/** What stands before the codes of its items. */
export const toMark = (key: string): string => key.replaceAll('-', '').slice(0, 3).toUpperCase()

function findFree(stem: string, between: string, taken: ReadonlySet<string>): string {
  let free = stem
  for (let n = 2; taken.has(free); n++) free = `${stem}${between}${n}`
  return free
}

/** A client's library; whoever begins it is the first of its team. */
export async function addLibrary(db: Database, actor: Actor, title: string): Promise<number> {
  leadsOnly(actor)
  return db.transaction(async tx => {
    // Those of libraries that the asker may not know of are taken as well.
    const known = await tx.select({ key: libraries.key, mark: libraries.mark }).from(libraries)
    const key = findFree(toKey(title), '-', new Set(known.map(l => l.key)))
    const mark = findFree(toMark(key), '', new Set(known.map(l => l.mark)))
    const [library] = await tx.insert(libraries).values({ key, mark, title, kind: 'client' }).returning()
    await tx.insert(libraryMembers).values({ libraryId: library.id, personId: actor.id })
    await recordEvents(tx, [{ personId: actor.id, subject: 'library', subjectId: library.id, verb: 'began', after: { title } }])
    return library.id
  })
}

/** Another title, or out of sight and back. The house library stays. */
export async function changeLibrary(
  db: Database,
  actor: Actor,
  id: number,
  { title, isArchived }: { title?: string; isArchived?: boolean },
): Promise<void> {
  leadsOnly(actor)
  await db.transaction(async tx => {
    const { rows } = await tx.execute<{ kind: string; title: string; archived: boolean }>(sql`
      select l.kind, l.title, l.archived_at is not null as archived from libraries l where l.id = ${id} and ${ofTheirs(actor)} for update`)
    const [before] = rows
    if (!before) throw notFound('This library')
    if (before.kind === 'house' && isArchived) throw new ProblemError('conflict', 'The house library is always there.')
    const archived = isArchived ?? before.archived
    await tx
      .update(libraries)
      .set({
        title: title ?? before.title,
        ...(archived === before.archived ? {} : { archivedAt: archived ? new Date() : null }),
      })
      .where(eq(libraries.id, id))
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'library',
        subjectId: id,
        verb: 'changed',
        before: { title: before.title, isArchived: before.archived },
        after: { title: title ?? before.title, isArchived: archived },
      },
    ])
  })
}
