import { eq, inArray, sql } from 'drizzle-orm'
import type { Context } from './platform/context'
import { requestPreview } from './previews/previews'
import { resumeRerenders } from './previews/rerenders'
import { feedTakes } from './tables/feed.table'
import { batches, batchItems } from './tables/intake.table'
import { items, versions } from './tables/library.table'
import { ownPictures } from './tables/own-picture.table'
import { deliveries } from './tables/project.table'

/**
 * Sends again whatever the database says is not done yet: what a killed worker held, and what was lost between a commit and
 * its job. Every job looks first whether it is still wanted, so one too many does no harm.
 */
export async function resumeWork(context: Context): Promise<void> {
  const { db, queue } = context
  await resumeRerenders(context)
  const fetching = await db
    .selectDistinct({ id: batches.id })
    .from(batches)
    .innerJoin(feedTakes, eq(feedTakes.batchId, batches.id))
    .where(eq(batches.state, 'receiving'))
  for (const { id } of fetching) await queue.send('fetch-feed', { batchId: id })
  const sorting = await db.select({ id: batches.id }).from(batches).where(eq(batches.state, 'sorting'))
  for (const { id } of sorting) await queue.send('sort-batch', { batchId: id })
  const measuring = await db.select({ id: batchItems.id }).from(batchItems).where(eq(batchItems.state, 'measuring'))
  for (const { id } of measuring) await queue.send('measure-item', { batchItemId: id })
  const writing = await db
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(inArray(deliveries.state, ['waiting', 'writing']))
  for (const { id } of writing) await queue.send('write-delivery', { deliveryId: id })
  const reducing = await db.select({ id: ownPictures.id }).from(ownPictures).where(eq(ownPictures.state, 'reducing'))
  for (const { id } of reducing) await queue.send('reduce-picture', { id })
  const unseen = await db
    .select({ inputKey: versions.inputKey, category: items.category, state: items.state })
    .from(items)
    .innerJoin(versions, eq(versions.id, items.currentVersionId))
    .where(sql`${items.state} <> 'withdrawn'`)
    .orderBy(items.code)
  for (const { inputKey, category } of unseen) await requestPreview(db, queue, { inputKey, category, quality: 'draft' })
}
