import { getBatch as getBatchOnly, getRows } from '../../src/server/intake/worklist'
import type { Actor } from '../../src/server/platform/access'
import type { Connection } from '../../src/server/platform/database'

/** A batch with all its rows in order, as a page has them in the end. */
export async function getBatch(db: Connection, actor: Actor, id: number) {
  const batch = await getBatchOnly(db, actor, id)
  const rows = new Map((await getRows(db, actor, id, batch.rowIds)).map(r => [r.id, r]))
  return { ...batch, items: batch.rowIds.map(rowId => rows.get(rowId)!) }
}
