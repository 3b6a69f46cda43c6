import { and, eq, isNull, ne } from 'drizzle-orm'
import type { EditProject } from '#shared/contracts/projects.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { people } from '../tables/people.table'
import { projectPeople, projects } from '../tables/project.table'
import { mayDecide } from './deciders'
import { getProjectRow } from './projects'

/**
 * A project's title, phase, notes, own form and people.
 * @throws ProblemError for somebody who does not decide for it; who decides is for a lead to say
 */
export async function editProject({ db }: Context, actor: Actor, id: number, { personIds, ...edit }: EditProject): Promise<void> {
  await db.transaction(async tx => {
    const { libraryId, code } = await getProjectRow(tx, actor, id)
    if (!(await mayDecide(tx, actor, id))) throw notAllowed(`Changing ${code}`)
    const [before] = await tx.select().from(projects).where(eq(projects.id, id)).for('update')
    if (Object.keys(edit).length > 0) await tx.update(projects).set(edit).where(eq(projects.id, id))
    if (personIds) {
      if (!mayEdit(actor)) throw notAllowed('Saying who decides for a project')
      const wanted = [...new Set(personIds)]
      const known = await tx
        .select({ id: people.id })
        .from(people)
        .where(and(isOneOf(people.id, wanted), ne(people.role, 'guest'), isNull(people.deactivatedAt)))
      if (known.length < wanted.length) throw new ProblemError('badRequest', 'One of them does not work here.')
      await tx.delete(projectPeople).where(eq(projectPeople.projectId, id))
      if (wanted.length > 0) await tx.insert(projectPeople).values(wanted.map(personId => ({ projectId: id, personId })))
    }
    await recordEvents(tx, [
      {
        personId: actor.id,
        subject: 'project',
        subjectId: id,
        verb: edit.phase && edit.phase !== before.phase ? edit.phase : 'edited',
        before: { phase: before.phase, title: before.title },
        after: { ...edit, ...(personIds ? { personIds } : {}) },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId: id })
  })
}
