import { and, desc, eq, isNull, type SQL, sql } from 'drizzle-orm'
import type { z } from 'zod'
import type { Stage } from '#core/mock-up/scene'
import type { newStageModelSchema, StageModelView } from '#shared/contracts/stage-models.contract'
import { closeSceneBatch } from '../intake/scene-files'
import { getHouseLibraryId } from '../people/libraries'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { libraries, people } from '../tables/people.table'
import { stageModels } from '../tables/stage-model.table'

export type StageModelRow = typeof stageModels.$inferSelect

/** One's own, and those of projects whose library one sees. */
const maySeeStageModel = (actor: Actor): SQL =>
  isGuest(actor)
    ? sql`false`
    : sql`(${stageModels.ownerId} = ${actor.id} or ${stageModels.projectId} is not null) and ${mayRead(actor, stageModels.libraryId)}`

export async function getStageModelRow(db: Connection, actor: Actor, id: number): Promise<StageModelRow> {
  const [row] = await db
    .select()
    .from(stageModels)
    .where(and(eq(stageModels.id, id), maySeeStageModel(actor)))
  if (!row) throw notFound('This model')
  return row
}

/** Those that a mock-up of a project may stand in, or one's own; the newest first. */
export async function listStageModels({ db }: Pick<Context, 'db'>, actor: Actor, projectId?: number): Promise<StageModelView[]> {
  const rows = await db
    .select({ row: stageModels, person: people.name })
    .from(stageModels)
    .innerJoin(people, eq(people.id, stageModels.ownerId))
    .where(
      and(
        maySeeStageModel(actor),
        projectId === undefined ? isNull(stageModels.projectId) : eq(stageModels.projectId, projectId),
      ),
    )
    .orderBy(desc(stageModels.id))
    .limit(MOST_LISTED)
  return rows.map(({ row, person }) => toView(row, person))
}
const MOST_LISTED = 100

const toView = (
  { id, batchId, name, hash, unit, up, state, message, facts, createdAt }: StageModelRow,
  person: string,
): StageModelView => ({
  ...{ id, batchId, name, key: hash, unit, up, state, message, person, createdAt: createdAt.toISOString() },
  parts: facts?.parts ?? 0,
  materials: facts?.materials.length ?? 0,
  triangles: facts?.triangles ?? 0,
  bytes: facts?.size ?? 0,
  sizeM: facts?.sizeM ?? null,
  missing: facts?.missing ?? [],
})

/** Has what was sent read as a stage; what was read before stays, since mock-ups stand in it. */
export async function createStageModel(
  { db, queue }: Pick<Context, 'db' | 'queue'>,
  actor: Actor,
  { batchId, projectId, unit, up }: z.output<typeof newStageModelSchema>,
): Promise<number> {
  if (isGuest(actor)) throw notAllowed('Bringing a model')
  return db.transaction(async tx => {
    const batch = await closeSceneBatch(tx, actor, batchId)
    const libraryId = projectId === null ? await getHouseLibraryId(tx) : (await getProjectRow(tx, actor, projectId)).libraryId
    const [row] = await tx
      .insert(stageModels)
      .values({ libraryId, projectId, batchId, ownerId: actor.id, name: batch.title, unit, up })
      .returning()
    await queue.send(tx, 'read-stage-model', [{ id: row.id }])
    return row.id
  })
}

/**
 * Refuses a stage that is a model which the asker may not use, or which others who see the mock-up may not see.
 * @param libraryId of those who see the mock-up; null where it is for its owner alone
 */
export async function assertMayStandIn(db: Connection, actor: Actor, stage: Stage, libraryId: number | null): Promise<void> {
  if (stage.kind !== 'model') return
  const rows = await db
    .select({ libraryId: stageModels.libraryId, kind: libraries.kind })
    .from(stageModels)
    .innerJoin(libraries, eq(libraries.id, stageModels.libraryId))
    .where(and(eq(stageModels.hash, stage.model.key), maySeeStageModel(actor)))
  if (rows.length === 0) throw new ProblemError('badRequest', `The model ${stage.model.name} is not there, or not yours to use.`)
  if (libraryId !== null && !rows.some(r => r.kind === 'house' || r.libraryId === libraryId))
    throw new ProblemError(
      'badRequest',
      `The model ${stage.model.name} is of another client's project: not everybody who sees this mock-up may see it.`,
    )
}
