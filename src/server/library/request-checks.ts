import { type SQL, sql } from 'drizzle-orm'
import type { Context } from '../platform/context'
import { items } from '../tables/library.table'

/** Has the current versions of items checked anew, in the background: what their checks depend on was changed. */
export async function requestChecks({ db, queue }: Context, which: SQL): Promise<void> {
  const rows = await db
    .select({ itemId: items.id, versionId: items.currentVersionId })
    .from(items)
    .where(sql`${which} and ${items.state} <> 'withdrawn'`)
    .orderBy(items.code)
  for (const { itemId, versionId } of rows)
    if (versionId !== null) await queue.send('check-item', { itemId, versionId }, { singletonKey: String(versionId) })
}
