import { and, eq, ne } from 'drizzle-orm'
import type { MapSourceFolder } from '#shared/contracts/intake.contract'
import { getCategory } from '../house/categories'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { batchItems, sourceFolderMappings } from '../tables/intake.table'
import { getBatchRow } from './batches'

/** Sends every row of one of the delivery's source folders to a house category, and remembers that for this supplier. */
export async function mapSourceFolder(
  context: Context,
  actor: Actor,
  batchId: number,
  { sourceFolder, kind, category }: MapSourceFolder,
): Promise<number> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Deciding on a delivery')
  const house = await getCategory(context.db, category)
  if (house.kind !== kind) throw new ProblemError('badRequest', `${house.title} does not hold ${kind}s.`)
  return context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(
        and(
          eq(batchItems.batchId, batchId),
          eq(batchItems.sourceFolder, sourceFolder),
          eq(batchItems.kind, kind),
          ne(batchItems.state, 'accepted'),
        ),
      )
      .for('update')
    // What is usual depends on the category, so a row that moves is measured again.
    const other = rows.filter(r => r.category !== category)
    if (rows.length > 0)
      await tx
        .update(batchItems)
        .set({ category, categoryConfidence: 1 })
        .where(
          isOneOf(
            batchItems.id,
            rows.map(r => r.id),
          ),
        )
    const again = other.filter(r => r.state === 'ready').map(r => r.id)
    if (again.length > 0) await tx.update(batchItems).set({ state: 'measuring' }).where(isOneOf(batchItems.id, again))
    if (batch.maker !== '')
      await tx
        .insert(sourceFolderMappings)
        .values({
          libraryId: batch.libraryId,
          maker: batch.maker.toLowerCase(),
          sourceFolder: sourceFolder.toLowerCase(),
          kind,
          category,
          personId: actor.id,
        })
        .onConflictDoUpdate({
          target: [
            sourceFolderMappings.libraryId,
            sourceFolderMappings.maker,
            sourceFolderMappings.sourceFolder,
            sourceFolderMappings.kind,
          ],
          set: { category, personId: actor.id, at: new Date() },
        })
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    await context.queue.send(
      tx,
      'measure-item',
      again.map(batchItemId => ({ batchItemId })),
    )
    return again.length
  })
}
