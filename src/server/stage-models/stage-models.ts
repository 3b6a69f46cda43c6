import { and, desc, eq, isNull, type SQL, sql } from 'drizzle-orm'
import type { z } from 'zod'
import type { Stage } from '#core/mock-up/scene/scene'
import type { newStageModelSchema, StageModelView } from '#shared/contracts/stage-models.contract'
import { closeSceneBatch } from '../intake/scene-files'
import { getHouseLibraryId } from '../people/libraries'
import { type Actor, isGuest, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { getProjectRow } from '../projects/projects'
import { batches, batchFiles } from '../tables/intake.table'
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
    await tellStageModel(tx, row)
    return row.id
  })
}

export const tellStageModel = (db: Connection, { libraryId, projectId }: StageModelRow) =>
  publish(db, { topic: 'stageModel', libraryId, projectId })

/**
 * Forgets a model with the files that were sent for it, unless something stands in it.
 * @throws ProblemError where it is not the asker's, or a mock-up, a kept version or a picture of one is of it
 */
export async function removeStageModel({ db }: Pick<Context, 'db'>, actor: Actor, id: number): Promise<void> {
  await db.transaction(async tx => {
    const row = await getStageModelRow(tx, actor, id)
    if (row.ownerId !== actor.id && actor.role !== 'lead') throw notAllowed('Forgetting a model of somebody else')
    const uses = row.hash === null ? 0 : await countUses(tx, row.hash)
    // The same model brought twice is there twice.
    if (uses > 0 && (await tx.$count(stageModels, eq(stageModels.hash, row.hash!))) === 1)
      throw new ProblemError(
        'conflict',
        `${uses === 1 ? 'A mock-up stands' : `${uses} mock-ups stand`} in ${row.name}, or ${uses === 1 ? 'has' : 'have'} pictures or kept versions that do; it stays.`,
      )
    await tx.delete(stageModels).where(eq(stageModels.id, id))
    if ((await tx.$count(stageModels, eq(stageModels.batchId, row.batchId))) === 0) {
      await tx.delete(batchFiles).where(eq(batchFiles.batchId, row.batchId))
      await tx.delete(batches).where(eq(batches.id, row.batchId))
    }
    await tellStageModel(tx, row)
  })
}

/** How many mock-ups stand in a model, or did in what is kept of them. What was put aside just now may be brought back. */
async function countUses(db: Connection, hash: string): Promise<number> {
  const isOf = sql`scene #>> '{stage,model,key}' = ${hash}`
  const { rows } = await db.execute<{ count: number }>(sql`
    select count(*)::int as count from mock_ups where (removed_at is null or removed_at > now() - interval '1 day') and id in (
      select id from mock_ups where ${isOf}
      union select mock_up_id from mock_up_versions where ${isOf}
      union select mock_up_id from mock_up_pictures where ${isOf})`)
  return rows[0].count
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
