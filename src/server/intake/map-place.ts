import { and, eq, inArray, ne } from 'drizzle-orm'
import type { MapPlace } from '#shared/contracts/intake.contract'
import { getCategory } from '../house/categories'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { batchItems, placeMappings } from '../tables/intake.table'
import { getBatchRow } from './batches'

/** Sends every row of one of the delivery's places to a house category, and remembers that for this supplier. */
export async function mapPlace(
  context: Context,
  actor: Actor,
  batchId: number,
  { place, kind, category }: MapPlace,
): Promise<number> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Deciding on a delivery')
  const house = await getCategory(context.db, category)
  if (house.kind !== kind) throw new ProblemError('badRequest', `${house.title} does not hold ${kind}s.`)
  const moved = await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(
        and(
          eq(batchItems.batchId, batchId),
          eq(batchItems.place, place),
          eq(batchItems.kind, kind),
          ne(batchItems.state, 'filed'),
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
          inArray(
            batchItems.id,
            rows.map(r => r.id),
          ),
        )
    const again = other.filter(r => r.state === 'ready').map(r => r.id)
    if (again.length > 0) await tx.update(batchItems).set({ state: 'measuring' }).where(inArray(batchItems.id, again))
    if (batch.maker !== '')
      await tx
        .insert(placeMappings)
        .values({
          libraryId: batch.libraryId,
          maker: batch.maker.toLowerCase(),
          place: place.toLowerCase(),
          kind,
          category,
          personId: actor.id,
        })
        .onConflictDoUpdate({
          target: [placeMappings.libraryId, placeMappings.maker, placeMappings.place, placeMappings.kind],
          set: { category, personId: actor.id, at: new Date() },
        })
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return again
  })
  for (const batchItemId of moved) await context.queue.send('measure-item', { batchItemId })
  return moved.length
}
