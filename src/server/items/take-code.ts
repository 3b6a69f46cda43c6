import { eq, sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'
import { libraries } from '../tables/people.table'

/**
 * The next code of a library in a category, such as TIM-0012, or HAL-TIM-0003 where the library is a client's: each counts by itself, so
 * that no gap tells how much another holds. The row's lock keeps two people from getting the same one.
 */
export async function takeCode(tx: Connection, libraryId: number, category: string): Promise<string> {
  const [{ mark }] = await tx.select({ mark: libraries.mark }).from(libraries).where(eq(libraries.id, libraryId))
  const { rows } = await tx.execute<{ prefix: string; last: number }>(sql`
    insert into code_numbers (library_id, prefix, last)
    select ${libraryId}::int, c.prefix, 1 from categories c where c.path = ${category}::ltree
    on conflict (library_id, prefix) do update set last = code_numbers.last + 1
    returning prefix, last`)
  const [{ prefix, last }] = rows
  return `${mark === '' ? '' : `${mark}-`}${prefix}-${String(last).padStart(4, '0')}`
}
