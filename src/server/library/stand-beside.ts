import { eq } from 'drizzle-orm'
import type { MadeMaterial } from '#shared/contracts/items.contract'
import { lockItems } from '../items/lock-items'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { items } from '../tables/library.table'
import { copyItem } from './carry-items'

/**
 * The newest version of an item as an item of its own beside it, under another name; the item itself is again what was approved of it, and no
 * project has anything to decide.
 * @throws ProblemError for somebody who is no lead, or where nothing newer than the approved version is there
 */
export async function standBeside({ db }: Context, actor: Actor, id: number, name: string): Promise<MadeMaterial> {
  if (!mayEdit(actor)) throw notAllowed('Making an item of a version')
  return db.transaction(async tx => {
    const item = (await lockItems(tx, actor, [id])).get(id)
    if (!item) throw notFound('This item')
    if (item.approvedVersionId === null || item.approvedVersionId === item.currentVersionId)
      throw new ProblemError('badRequest', `${item.code} has no version that is newer than the approved one.`)
    const made = await copyItem(tx, actor, { ...item, name, state: 'inReview' }, { id: item.libraryId })
    await tx
      .update(items)
      .set({ currentVersionId: item.approvedVersionId, state: 'approved', updatedAt: new Date() })
      .where(eq(items.id, id))
    const [row] = await tx.select({ code: items.code }).from(items).where(eq(items.id, made))
    await recordEvents(tx, [
      { personId: actor.id, subject: 'item', subjectId: id, verb: 'stoodBeside', after: { code: row.code, name } },
    ])
    await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: id })
    await publish(tx, { topic: 'library', libraryId: item.libraryId })
    return { id: made, code: row.code }
  })
}
