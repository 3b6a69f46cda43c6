import { and, eq, isNull, sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'
import { ProblemError } from '../platform/problem'
import { categories } from '../tables/library.table'

export type Category = typeof categories.$inferSelect

/** A category that holds things now; throws where there is none, or where it was merged into another. */
export async function getCategory(db: Connection, path: string): Promise<Category> {
  const [row] = await db
    .select()
    .from(categories)
    .where(and(eq(categories.path, path), isNull(categories.retiredInto)))
  if (!row) throw new ProblemError('badRequest', `There is no category ${path}.`)
  return row
}

/** Every place a merged category leads to, by its old path. */
export async function loadRetired(db: Connection): Promise<Map<string, string>> {
  const rows = await db
    .select({ path: categories.path, into: categories.retiredInto })
    .from(categories)
    .where(sql`${categories.retiredInto} is not null`)
  return new Map(rows.map(r => [r.path, r.into!]))
}

/** Where an address of the tree leads now. Merges may follow one another. */
export function followRetired(path: string, retired: ReadonlyMap<string, string>): string {
  const seen = new Set<string>()
  let at = path
  while (!seen.has(at)) {
    const next = retired.get(at)
    if (next === undefined) return at
    seen.add(at)
    at = next
  }
  return at
}
