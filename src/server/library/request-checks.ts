import { type SQL, sql } from 'drizzle-orm'
import type { Connection } from '../platform/database'
import type { JobQueue } from '../platform/queue'
import { items } from '../tables/library.table'

/** Has the current versions of items checked anew, in the background: what their checks depend on was changed. */
export async function requestChecks(tx: Connection, queue: JobQueue, which: SQL): Promise<void> {
  const rows = await tx
    .select({ itemId: items.id, versionId: items.currentVersionId })
    .from(items)
    .where(sql`${which} and ${items.state} <> 'withdrawn'`)
    .orderBy(items.code)
  await queue.send(
    tx,
    'check-item',
    rows.flatMap(({ itemId, versionId }) => (versionId === null ? [] : [{ itemId, versionId }])),
  )
}
