import { and, desc, eq, isNull, sql } from 'drizzle-orm'
import type { KeptLine, KeptSchedule, ScheduleRow } from '#shared/contracts/schedules.contract'
import { toKeptLine } from '#shared/schedule-changes'
import type { Actor } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notFound } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { people } from '../tables/people.table'
import { keptSchedules } from '../tables/project.table'

/** Keeps a project's lines as they stand, under a name. */
export async function keepLines(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  projectId: number,
  name: string,
  rows: readonly ScheduleRow[],
): Promise<number> {
  return db.transaction(async tx => {
    const { libraryId } = await getProjectRow(tx, actor, projectId)
    const [kept] = await tx
      .insert(keptSchedules)
      .values({ projectId, name, personId: actor.id, lines: rows.map(toKeptLine) })
      .returning({ id: keptSchedules.id })
    await recordEvents(tx, [
      {
        ...{ personId: actor.id, subject: 'project', subjectId: projectId, verb: 'kept-schedule' },
        after: { kept: kept.id, name },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
    return kept.id
  })
}

/** The newest first. */
export async function listKeptSchedules({ db }: Pick<Context, 'db'>, actor: Actor, projectId: number): Promise<KeptSchedule[]> {
  await getProjectRow(db, actor, projectId)
  const rows = await db
    .select({
      id: keptSchedules.id,
      name: keptSchedules.name,
      person: people.name,
      at: keptSchedules.at,
      lines: sql<number>`jsonb_array_length(${keptSchedules.lines})`,
    })
    .from(keptSchedules)
    .innerJoin(people, eq(people.id, keptSchedules.personId))
    .where(and(eq(keptSchedules.projectId, projectId), isNull(keptSchedules.removedAt)))
    .orderBy(desc(keptSchedules.id))
  return rows.map(row => ({ ...row, at: row.at.toISOString() }))
}

/** Takes a kept schedule away, or brings it back. */
export async function setKeptRemoved(
  { db }: Pick<Context, 'db'>,
  actor: Actor,
  projectId: number,
  keptId: number,
  isRemoved: boolean,
): Promise<void> {
  await db.transaction(async tx => {
    const { libraryId } = await getProjectRow(tx, actor, projectId)
    const [changed] = await tx
      .update(keptSchedules)
      .set({ removedAt: isRemoved ? new Date() : null })
      .where(and(eq(keptSchedules.id, keptId), eq(keptSchedules.projectId, projectId)))
      .returning({ name: keptSchedules.name })
    if (!changed) throw notFound('This kept schedule')
    await recordEvents(tx, [
      {
        ...{ personId: actor.id, subject: 'project', subjectId: projectId },
        verb: isRemoved ? 'removed-schedule' : 'restored-schedule',
        after: { kept: keptId, name: changed.name },
      },
    ])
    await publish(tx, { topic: 'project', libraryId, projectId })
  })
}

/** @throws ProblemError where the project keeps no such schedule */
export async function readKeptLines(db: Connection, projectId: number, keptId: number): Promise<KeptLine[]> {
  const [kept] = await db
    .select({ lines: keptSchedules.lines })
    .from(keptSchedules)
    .where(and(eq(keptSchedules.id, keptId), eq(keptSchedules.projectId, projectId), isNull(keptSchedules.removedAt)))
  if (!kept) throw notFound('This kept schedule')
  return kept.lines
}
