import { and, asc, eq, isNull } from 'drizzle-orm'
import { type Actor, mayEdit } from '../platform/access'
import type { Connection, Database } from '../platform/database'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { people } from '../tables/people.table'
import { projectGuests } from '../tables/project.table'

/** Whom a project is shown to; those who are no guests any more see it by their libraries, or not at all. */
export const listGuests = (db: Connection, projectId: number): Promise<{ id: number; name: string }[]> =>
  db
    .select({ id: people.id, name: people.name })
    .from(projectGuests)
    .innerJoin(people, eq(people.id, projectGuests.personId))
    .where(and(eq(projectGuests.projectId, projectId), eq(people.role, 'guest'), isNull(people.deactivatedAt)))
    .orderBy(asc(people.name))

/** Shows a project to these guests and to no others. @throws ProblemError for somebody who is no lead, or where one of them is no guest */
export async function changeGuests(
  { db }: { db: Database },
  actor: Actor,
  { id: projectId, libraryId }: { id: number; libraryId: number },
  personIds: readonly number[],
): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Showing a project to guests')
  const wanted = [...new Set(personIds)]
  await db.transaction(async tx => {
    const known = await tx
      .select({ id: people.id, name: people.name })
      .from(people)
      .where(and(isOneOf(people.id, wanted), eq(people.role, 'guest')))
      .for('share')
    if (known.length < wanted.length)
      throw new ProblemError('badRequest', 'One of them is no guest; people who work here see projects by their libraries.')
    const before = await listGuests(tx, projectId)
    await tx.delete(projectGuests).where(eq(projectGuests.projectId, projectId))
    if (wanted.length > 0) await tx.insert(projectGuests).values(wanted.map(personId => ({ projectId, personId })))
    const namesOf = (list: readonly { name: string }[]) => ({
      guests: list
        .map(p => p.name)
        .sort()
        .join(', '),
    })
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: projectId,
        verb: 'shown',
        before: namesOf(before),
        after: namesOf(known),
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
  })
}
