import { HOUSE_CATEGORIES } from '#core/standard/categories'
import type { Connection } from '../platform/database'
import { categories } from '../tables/library.table'

/** Room between two shipped categories for those a studio makes itself. */
export const POSITION_STEP = 1000

/** Brings the shipped house tree into the database; what is there stays as the studio has it. */
export async function prepareCategories(db: Connection): Promise<void> {
  for (const [position, { path, title, kind, prefix }] of HOUSE_CATEGORIES.entries())
    await db
      .insert(categories)
      .values({ path, title, kind, prefix, position: position * POSITION_STEP })
      .onConflictDoNothing()
}
