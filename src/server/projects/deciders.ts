import { and, asc, eq, isNull } from 'drizzle-orm'
import { type Actor, isGuest, mayEdit } from '../platform/access'
import type { Connection } from '../platform/database'
import { people } from '../tables/people.table'
import { projectPeople } from '../tables/project.table'

/** Who decides for a project. */
export const listProjectPeople = (db: Connection, projectId: number): Promise<{ id: number; name: string }[]> =>
  db
    .select({ id: people.id, name: people.name })
    .from(projectPeople)
    .innerJoin(people, eq(people.id, projectPeople.personId))
    .where(and(eq(projectPeople.projectId, projectId), isNull(people.deactivatedAt)))
    .orderBy(asc(people.name))

/** Whether somebody decides for a project: its own people, everybody who works here where none are named, and leads. */
export async function mayDecide(db: Connection, actor: Actor, projectId: number): Promise<boolean> {
  if (isGuest(actor)) return false
  if (mayEdit(actor)) return true
  const named = await listProjectPeople(db, projectId)
  return named.length === 0 || named.some(p => p.id === actor.id)
}
