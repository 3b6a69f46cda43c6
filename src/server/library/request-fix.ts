import { and, eq } from 'drizzle-orm'
import { proposeFix } from '#core/fixes/fix'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { findings, items } from '../tables/library.table'

/** Asks for findings of an item's current version to be fixed; what comes out is its next version. */
export async function requestFix(
  { db, queue }: Context,
  actor: Actor,
  itemId: number,
  findingIds: readonly number[],
): Promise<void> {
  if (!mayEdit(actor)) throw notAllowed('Fixing an item')
  const [item] = await db
    .select()
    .from(items)
    .where(and(eq(items.id, itemId), mayRead(actor, items.libraryId)))
  if (!item?.currentVersionId) throw notFound('This item')
  const rows = await db
    .select()
    .from(findings)
    .where(and(eq(findings.versionId, item.currentVersionId), isOneOf(findings.id, [...findingIds])))
  if (rows.length === 0) throw new ProblemError('conflict', 'These findings are of an older version; look at the newest.')
  if (rows.some(f => proposeFix({ ...f, subject: f.subject ?? undefined }) === null))
    throw new ProblemError('badRequest', 'There is no computed fix for this; it needs a person.')
  const job = { itemId, versionId: item.currentVersionId, findingIds: rows.map(f => f.id), personId: actor.id }
  await db.transaction(tx => queue.send(tx, 'fix-item', [job], 40))
}
