import { and, desc, eq } from 'drizzle-orm'
import type { FailedWork } from '#shared/contracts/upkeep.contract'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed } from '../platform/problem'
import type { Jobs, QueueName } from '../platform/queue'
import { batches, batchItems } from '../tables/intake.table'
import { ownPictures } from '../tables/own-picture.table'
import { projectExports } from '../tables/project.table'
import { failedJobs } from '../tables/work.table'

const LISTED = 200

/** Everything that was given up in the libraries of the asker, the latest first. */
export async function listFailedWork(db: Connection, actor: Actor): Promise<FailedWork[]> {
  const rows = await db
    .select()
    .from(failedJobs)
    .where(mayRead(actor, failedJobs.libraryId))
    .orderBy(desc(failedJobs.id))
    .limit(LISTED)
  return rows.map(({ id, about, address, at }) => ({ id, about, address, at: at.toISOString() }))
}

/** Puts the thing itself back to where its work begins; false where there is nothing to do any more. */
const AGAIN: { [Q in QueueName]?: (tx: Connection, job: Jobs[Q]) => Promise<boolean> } = {
  'fetch-feed': (tx, { batchId }) =>
    changed(tx.update(batches).set({ state: 'receiving', message: null }).where(failedBatch(batchId))),
  'sort-batch': (tx, { batchId }) =>
    changed(tx.update(batches).set({ state: 'sorting', message: null }).where(failedBatch(batchId))),
  'measure-item': (tx, { batchItemId }) =>
    changed(
      tx
        .update(batchItems)
        .set({ state: 'measuring', message: null })
        .where(and(eq(batchItems.id, batchItemId), eq(batchItems.state, 'failed'))),
    ),
  'write-export': (tx, { exportId }) =>
    changed(
      tx
        .update(projectExports)
        .set({ state: 'waiting', message: null })
        .where(and(eq(projectExports.id, exportId), eq(projectExports.state, 'failed'))),
    ),
  'reduce-picture': (tx, { id }) =>
    changed(
      tx
        .update(ownPictures)
        .set({ state: 'reducing', reason: null })
        .where(and(eq(ownPictures.id, id), eq(ownPictures.state, 'refused'))),
    ),
}
const failedBatch = (id: number) => and(eq(batches.id, id), eq(batches.state, 'failed'))
const changed = async (update: PromiseLike<{ rowCount: number | null }>): Promise<boolean> => ((await update).rowCount ?? 0) > 0

/** Has failed work tried again, in the order in which it failed. Returns how much of it. */
export async function tryFailedWork({ db, queue }: Context, actor: Actor, ids: readonly number[]): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Having work tried again')
  return db.transaction(async tx => {
    const rows = await takeRows(tx, actor, ids)
    let again = 0
    for (const row of rows) {
      const name = row.queue as QueueName
      const prepare = AGAIN[name] as ((tx: Connection, job: unknown) => Promise<boolean>) | undefined
      if (prepare && !(await prepare(tx, row.job))) continue
      await queue.send(tx, name, [row.job as never], 40)
      again++
    }
    await publish(tx, { topic: 'anything' })
    return again
  })
}

/** Takes failed work off the list: it does not matter any more. */
export async function dismissFailedWork({ db }: Context, actor: Actor, ids: readonly number[]): Promise<number> {
  if (!mayEdit(actor)) throw notAllowed('Taking failed work off the list')
  return db.transaction(async tx => {
    const rows = await takeRows(tx, actor, ids)
    await publish(tx, { topic: 'failedWork' })
    return rows.length
  })
}

const takeRows = async (tx: Connection, actor: Actor, ids: readonly number[]) => {
  const rows = await tx
    .delete(failedJobs)
    .where(and(isOneOf(failedJobs.id, ids), mayRead(actor, failedJobs.libraryId)))
    .returning()
  return rows.sort((a, b) => a.id - b.id)
}
