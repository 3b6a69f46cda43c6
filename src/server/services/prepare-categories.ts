import { HOUSE_CATEGORIES } from '#core/standard/categories'
import type { Connection } from '../db/database'
import { categories } from '../db/library.table'

/** Brings the shipped house tree into the database; what is there keeps its numbers. */
export async function prepareCategories(db: Connection): Promise<void> {
  for (const [position, { path, title, kind, prefix }] of HOUSE_CATEGORIES.entries())
    await db
      .insert(categories)
      .values({ path, title, kind, prefix, position })
      .onConflictDoUpdate({ target: categories.path, set: { title, position } })
}
