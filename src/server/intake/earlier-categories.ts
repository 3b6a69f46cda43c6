import { and, count, eq, ne } from 'drizzle-orm'
import type { ItemKind } from '#core/standard/categories'
import type { KnownOfItem } from '#core/standard/propose-category'
import type { Connection } from '../platform/database'
import { batches, batchItems } from '../tables/intake.table'
import { items } from '../tables/library.table'

type Earlier = NonNullable<KnownOfItem['earlier']>

/** Where the items lie that a library took from a maker's other deliveries, by kind. */
export async function loadEarlierCategories(
  db: Connection,
  batch: Pick<typeof batches.$inferSelect, 'id' | 'maker' | 'libraryId'>,
): Promise<ReadonlyMap<ItemKind, Earlier>> {
  const found = new Map<ItemKind, { category: string; count: number }[]>()
  if (batch.maker === '') return found
  const rows = await db
    .select({ kind: items.kind, category: items.category, count: count() })
    .from(batches)
    .innerJoin(batchItems, eq(batchItems.batchId, batches.id))
    .innerJoin(items, eq(items.id, batchItems.itemId))
    .where(
      and(
        eq(batches.maker, batch.maker),
        eq(batches.libraryId, batch.libraryId),
        ne(batches.id, batch.id),
        eq(items.libraryId, batch.libraryId),
        ne(items.state, 'withdrawn'),
      ),
    )
    .groupBy(items.kind, items.category)
  for (const { kind, ...rest } of rows) found.set(kind, [...(found.get(kind) ?? []), rest])
  return found
}
