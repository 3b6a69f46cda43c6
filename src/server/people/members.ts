import { and, eq, inArray, isNotNull, isNull, ne, sql } from 'drizzle-orm'
import type { ChangePerson, InvitePerson, Member } from '#shared/contracts/people.contract'
import type { Person } from '#shared/contracts/session.contract'
import { type Actor, listVisibleLibraryIds, mayEdit, toPerson, visibleLibraries } from '../platform/access'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { notFound, ProblemError } from '../platform/problem'
import { libraries, libraryMembers, people } from '../tables/people.table'
import { createLink, takeLink } from './access-links'
import { isPasswordOf, setPassword } from './people'
import { dropSessions } from './sessions'

const leadsOnly = (actor: Actor): void => {
  if (!mayEdit(actor)) throw new ProblemError('notAllowed', 'A library lead decides who works here.')
}

/** Everybody, with the libraries of theirs that the asker may know of. */
export async function listMembers(db: Connection, actor: Actor): Promise<Member[]> {
  const { rows } = await db.execute<Member & Record<string, unknown>>(sql`
    select p.id, p.name, p.email, p.role, p.deactivated_at is null as "isActive", p.password_hash is not null as "hasJoined",
      case when ${mayEdit(actor)} then
        (select count(*)::int from sessions s where (s.sess ->> 'personId')::int = p.id and s.expire > now())
      end as sessions,
      coalesce((select json_agg(json_build_object('id', l.id, 'title', l.title, 'kind', l.kind) order by l.id) from libraries l
        where l.id in ${visibleLibraries(actor)} and p.role <> 'guest'
          and (l.kind = 'house' or exists (select from library_members m where m.library_id = l.id and m.person_id = p.id))), '[]') as libraries,
      coalesce((select json_agg(json_build_object('id', pr.id, 'title', pr.title) order by pr.code)
        from project_guests g join projects pr on pr.id = g.project_id
        where g.person_id = p.id and p.role = 'guest' and pr.library_id in ${visibleLibraries(actor)}), '[]') as projects
    from people p order by p.deactivated_at is not null, array_position(array['lead', 'artist', 'guest'], p.role), p.name`)
  return rows
}

/** Somebody new, who comes in by the link; until then there is no password that would let them in. */
export async function invitePerson(db: Database, actor: Actor, given: InvitePerson): Promise<{ id: number; path: string }> {
  leadsOnly(actor)
  const email = given.email.trim().toLowerCase()
  return db.transaction(async tx => {
    const [known] = await tx.select({ name: people.name }).from(people).where(eq(people.email, email))
    if (known) throw new ProblemError('conflict', `${known.name} has this e-mail address already.`)
    const { name, role } = given
    const [person] = await tx.insert(people).values({ email, name, role }).returning()
    await setTeams(tx, actor, person.id, given.libraryIds)
    await recordEvents(tx, [
      { personId: actor.id, subject: 'person', subjectId: person.id, verb: 'invited', after: { name, email, role } },
    ])
    return { id: person.id, path: await createLink(tx, { purpose: 'join', personId: person.id, createdBy: actor.id }) }
  })
}

/** A role or a name, teams, and whether somebody may come in; the studio always keeps a lead who can. */
export async function changePerson(db: Database, actor: Actor, id: number, change: ChangePerson): Promise<void> {
  leadsOnly(actor)
  if (id === actor.id && (change.isActive === false || (change.role ?? 'lead') !== 'lead'))
    throw new ProblemError('conflict', 'Another lead has to do this: nobody takes their own way in.')
  await db.transaction(async tx => {
    const before = await holdPerson(tx, id)
    const { name, role, isActive, libraryIds } = change
    const [after] = await tx
      .update(people)
      .set({
        name: name ?? before.name,
        role: role ?? before.role,
        deactivatedAt: isActive === undefined ? before.deactivatedAt : isActive ? null : (before.deactivatedAt ?? new Date()),
      })
      .where(eq(people.id, id))
      .returning()
    await keepLead(tx)
    if (isActive === false) await dropSessions(tx, id)
    if (libraryIds) await setTeams(tx, actor, id, libraryIds)
    const told = ({ name, role, deactivatedAt }: typeof before) => ({ name, role, isActive: deactivatedAt === null })
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'person',
        subjectId: id,
        verb: 'changed',
        before: told(before),
        after: told(after),
      },
    ])
  })
}

/** A new way in for somebody who has not come yet, or who does not know their password any more. */
export async function makeLink(db: Database, actor: Actor, id: number): Promise<{ path: string; isNew: boolean }> {
  leadsOnly(actor)
  return db.transaction(async tx => {
    const person = await holdPerson(tx, id)
    if (person.deactivatedAt !== null)
      throw new ProblemError('conflict', `${person.name} may not come in; let them in again first.`)
    const purpose = person.passwordHash === null ? 'join' : 'reset'
    await recordEvents(tx, [{ personId: actor.id, subject: 'person', subjectId: id, verb: 'linked', after: { purpose } }])
    return { path: await createLink(tx, { purpose, personId: id, createdBy: actor.id }), isNew: purpose === 'join' }
  })
}

/** The password that a link lets somebody choose; whoever was signed in as them is out. */
export async function followLink(db: Database, token: string, password: string): Promise<Person> {
  return db.transaction(async tx => {
    const { purpose, personId } = await takeLink(tx, token)
    if (purpose === 'found' || personId === null) throw new ProblemError('badRequest', 'With this link the studio is founded.')
    const person = await holdPerson(tx, personId)
    if (person.deactivatedAt !== null)
      throw new ProblemError('notAllowed', 'You may not come in any more; a library lead can say why.')
    await setPassword(tx, personId, password)
    await dropSessions(tx, personId)
    await recordEvents(tx, [
      { personId, subject: 'person', subjectId: personId, verb: purpose === 'join' ? 'joined' : 'chose a password' },
    ])
    return toPerson(person)
  })
}

/** One's own password; other browsers are signed out. @param keep the session that goes on */
export async function changePassword(
  db: Database,
  actor: Actor,
  { current, next }: { current: string; next: string },
  keep: string,
): Promise<void> {
  if (!(await isPasswordOf(db, actor.id, current)))
    throw new ProblemError('badRequest', 'This is not your password as it is.', { current: 'Not your password.' })
  await db.transaction(async tx => {
    await setPassword(tx, actor.id, next)
    await dropSessions(tx, actor.id, keep)
    await recordEvents(tx, [{ personId: actor.id, subject: 'person', subjectId: actor.id, verb: 'chose a password' }])
  })
}

async function holdPerson(tx: Connection, id: number): Promise<typeof people.$inferSelect> {
  const [person] = await tx.select().from(people).where(eq(people.id, id)).for('update')
  if (!person) throw notFound('This person')
  return person
}

/** Two who demote each other at once wait for each other here. */
async function keepLead(tx: Connection): Promise<void> {
  const leads = await tx
    .select({ id: people.id })
    .from(people)
    .where(and(eq(people.role, 'lead'), isNull(people.deactivatedAt), isNotNull(people.passwordHash)))
    .for('update')
  if (leads.length === 0) throw new ProblemError('conflict', 'The studio needs a lead who can come in.')
}

/** Teams of the client libraries that the asker may see; of others nothing is changed, or told. */
async function setTeams(tx: Connection, actor: Actor, personId: number, libraryIds: readonly number[]): Promise<void> {
  const visible = await listVisibleLibraryIds(tx, actor)
  const clients = await tx
    .select({ id: libraries.id })
    .from(libraries)
    .where(and(inArray(libraries.id, [...visible]), ne(libraries.kind, 'house')))
  if (clients.length === 0) return
  const ids = clients.map(l => l.id)
  const ofThese = and(eq(libraryMembers.personId, personId), inArray(libraryMembers.libraryId, ids))
  const before = (await tx.delete(libraryMembers).where(ofThese).returning()).map(m => m.libraryId)
  const after = ids.filter(id => libraryIds.includes(id))
  if (after.length > 0) await tx.insert(libraryMembers).values(after.map(libraryId => ({ libraryId, personId })))
  // Told of the library, not of the person: only its team may know that there is one.
  const told = (libraryId: number, verb: string) =>
    ({ personId: actor.id, subject: 'library', subjectId: libraryId, verb, after: { personId } }) as const
  await recordEvents(tx, [
    ...after.filter(id => !before.includes(id)).map(id => told(id, 'joinedTeam')),
    ...before.filter(id => !after.includes(id)).map(id => told(id, 'leftTeam')),
  ])
}
