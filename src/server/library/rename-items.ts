import { eq } from 'drizzle-orm'
import type { BulkResult } from '#shared/contracts/items.contract'
import { lockItems } from '../items/lock-items'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed } from '../platform/problem'
import { items } from '../tables/library.table'

export interface Renamed extends BulkResult {
  /** What those that were renamed were called. */
  before: { id: number; name: string }[]
}

/** Renames items, each as given; for undoing as well. Items that are gone or not the asker's are refused by number. */
export async function renameItems(
  context: Context,
  actor: Actor,
  names: readonly { id: number; name: string }[],
): Promise<Renamed> {
  if (!mayEdit(actor)) throw notAllowed('Renaming items')
  const result: Renamed = { changed: [], refused: [], before: [] }
  await context.db.transaction(async tx => {
    const held = await lockItems(
      tx,
      actor,
      names.map(n => n.id),
    )
    for (const { id, name } of names) {
      const row = held.get(id)
      if (!row) {
        result.refused.push({ id, code: '', reason: 'It is not there any more.' })
        continue
      }
      if (row.name === name) continue
      await tx.update(items).set({ name, updatedAt: new Date() }).where(eq(items.id, id))
      await recordEvents(tx, [
        { personId: actor.id, subject: 'item', subjectId: id, verb: 'edited', before: { name: row.name }, after: { name } },
      ])
      await publish(tx, { topic: 'item', libraryId: row.libraryId, itemId: id })
      result.changed.push(id)
      result.before.push({ id, name: row.name })
    }
  })
  return result
}
