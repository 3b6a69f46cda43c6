import { asc, eq } from 'drizzle-orm'
import type { ScheduleLayout, ScheduleTemplate } from '#shared/contracts/schedules.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { notAllowed, notFound } from '../platform/problem'
import { scheduleTemplates } from '../tables/standard.table'

/** Layouts of schedules that the house keeps. */
export const listScheduleTemplates = ({ db }: Context): Promise<ScheduleTemplate[]> =>
  db
    .select({ id: scheduleTemplates.id, name: scheduleTemplates.name, layout: scheduleTemplates.layout })
    .from(scheduleTemplates)
    .orderBy(asc(scheduleTemplates.name))

/** Keeps a layout under a name, in the place of the one that had it. @throws ProblemError for somebody who is no lead */
export async function keepScheduleTemplate(
  { db }: Context,
  actor: Actor,
  { name, layout }: { name: string; layout: ScheduleLayout },
): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Keeping a template')
  const [row] = await db
    .insert(scheduleTemplates)
    .values({ name, layout, personId: actor.id })
    .onConflictDoUpdate({ target: scheduleTemplates.name, set: { layout, personId: actor.id, at: new Date() } })
    .returning({ id: scheduleTemplates.id })
  return row.id
}

export async function dropScheduleTemplate({ db }: Context, actor: Actor, id: number): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Taking a template away')
  const dropped = await db.delete(scheduleTemplates).where(eq(scheduleTemplates.id, id)).returning({ id: scheduleTemplates.id })
  if (dropped.length === 0) throw notFound('This template')
}
