import { type CategoryRules, NO_RULES, resolveRules } from '#core/standard/category-rules'
import type { Connection } from '../platform/database'
import { categoryRules } from '../tables/standard.table'

export async function loadRules(db: Connection): Promise<Map<string, CategoryRules>> {
  const rows = await db.select().from(categoryRules)
  // Rules that were stored before a kind of rule was there say nothing about it.
  return new Map(rows.map(r => [r.category, { ...NO_RULES, ...r.rules }]))
}

/** The rules that hold in a category now. */
export const rulesFor = async (db: Connection, category: string): Promise<CategoryRules> =>
  resolveRules(category, await loadRules(db))
