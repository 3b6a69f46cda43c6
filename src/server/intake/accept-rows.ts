import { and, eq } from 'drizzle-orm'
import type { TagWords } from '#core/find/tags/tag-words'
import { type CategoryRules, resolveRules } from '#core/standard/category-rules'
import type { Facts } from '#files/items/inspect-item'
import type { BulkResult } from '#shared/contracts/items.contract'
import { FIX_WORDS } from '#shared/fix-words'
import { loadRules } from '../house/load-rules'
import { loadTagWords } from '../house/load-word-lines'
import { takeCode } from '../items/take-code'
import { addVersion } from '../items/version-store'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import { type Connection, isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed } from '../platform/problem'
import { requestPreviews } from '../previews/previews'
import { batchItems } from '../tables/intake.table'
import { items, versions } from '../tables/library.table'
import { getBatchRow } from './batches'
import { decisionOf, settleConflict } from './conflicts'
import { type BatchItemRow, factsOf, needsWidth, wordsOfRow } from './rows'

/** Makes library items of rows of the worklist. Rows that are not ready are refused by name; the others go on. */
export async function acceptRows(context: Context, actor: Actor, batchId: number, ids: readonly number[]): Promise<BulkResult> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Accepting a delivery')
  const [rules, words] = [await loadRules(context.db), await loadTagWords(context.db)]
  const result: BulkResult = { changed: [], refused: [] }
  const wishes: { inputKey: string; category: string }[] = []
  await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.batchId, batchId), isOneOf(batchItems.id, [...ids])))
      .orderBy(batchItems.category, batchItems.name)
      .for('update')
    // Of what came twice, the one whose width is known is the one that is accepted.
    const inOrder = [...rows.filter(r => !needsWidth(r)), ...rows.filter(needsWidth)]
    for (const given of inOrder) {
      const row = { ...given, conflict: await settleConflict(tx, batch.libraryId, given) }
      const reason = reasonNotToAccept(row)
      if (reason) {
        result.refused.push({ id: row.id, code: row.name, reason })
        continue
      }
      const known = withWords(row, factsOf(row, batch), resolveRules(row.category, rules), words)
      const accepted = await acceptRow(tx, actor, batch.libraryId, row, known)
      await tx
        .update(batchItems)
        .set({ state: 'accepted', conflict: row.conflict, ...accepted })
        .where(eq(batchItems.id, row.id))
      result.changed.push(row.id)
      wishes.push(row)
    }
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    if (result.changed.length > 0) await publish(tx, { topic: 'library', libraryId: batch.libraryId })
    await requestPreviews(
      tx,
      context.queue,
      wishes.map(({ inputKey, category }) => ({ inputKey, category, quality: 'draft' })),
      10,
    )
  })
  return result
}

/** What is known of a row, with the words that it will have. */
function withWords(row: BatchItemRow, known: Facts, rules: CategoryRules, house: TagWords): Facts {
  const { tags, uses } = wordsOfRow(row, known, rules, house)
  return {
    ...known,
    ...(tags.length > 0 ? { tags: tags.join(', ') } : {}),
    ...(uses.length > 0 ? { uses: uses.join(', ') } : {}),
  }
}

/** As an item of its own, as the next version of the one it is, or, where the library has it to the pixel, as that one. */
async function acceptRow(
  tx: Connection,
  actor: Actor,
  libraryId: number,
  row: BatchItemRow,
  known: Facts,
): Promise<{ itemId: number; previousVersionId: number | null }> {
  const decision = decisionOf(row)
  const { conflict } = row
  if (!conflict || decision === null || decision === 'keepBoth')
    return { itemId: await createItem(tx, actor, libraryId, row, known), previousVersionId: null }
  const [item] = await tx.select().from(items).where(eq(items.id, conflict.itemId)).for('update')
  if (decision === 'link') return { itemId: item.id, previousVersionId: null }
  await addVersion(tx, actor, item.id, { ...row, note: describeOrigin(row), facts: known })
  // The approved version stays the approved one until somebody approves the new.
  if (item.state === 'approved') await tx.update(items).set({ state: 'inReview' }).where(eq(items.id, item.id))
  await recordEvents(tx, [
    { personId: actor.id, subject: 'item', subjectId: item.id, verb: 'revised', after: { name: row.name } },
  ])
  await publish(tx, { topic: 'item', libraryId, itemId: item.id })
  return { itemId: item.id, previousVersionId: item.currentVersionId }
}

/**
 * Takes the accepting of rows back: an item of its own is withdrawn, a version gives way to the one before it, a link is undone. Nothing is
 * deleted. Rows whose item has been worked on since are refused by name.
 */
export async function takeBackRows(context: Context, actor: Actor, batchId: number, ids: readonly number[]): Promise<BulkResult> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Taking an acceptance back')
  const result: BulkResult = { changed: [], refused: [] }
  await context.db.transaction(async tx => {
    const rows = await tx
      .select({ row: batchItems, item: items })
      .from(batchItems)
      .innerJoin(items, eq(items.id, batchItems.itemId))
      .where(
        and(
          eq(batchItems.batchId, batchId),
          isOneOf(batchItems.id, [...ids]),
          eq(batchItems.state, 'accepted'),
          mayRead(actor, items.libraryId),
        ),
      )
      .for('update', { of: [batchItems, items] })
    for (const { row, item } of rows) {
      const isLink = decisionOf(row) === 'link'
      const [current] = await tx.select().from(versions).where(eq(versions.id, item.currentVersionId!))
      if (!isLink && current.inputKey !== row.inputKey) {
        result.refused.push({ id: row.id, code: item.code, reason: 'It has been worked on since; withdraw it on its sheet.' })
        continue
      }
      if (!isLink) {
        if (row.previousVersionId !== null)
          await tx.update(items).set({ currentVersionId: row.previousVersionId }).where(eq(items.id, item.id))
        else await tx.update(items).set({ state: 'withdrawn' }).where(eq(items.id, item.id))
        await recordEvents(tx, [{ personId: actor.id, subject: 'item', subjectId: item.id, verb: 'takenBack' }])
        await publish(tx, { topic: 'item', libraryId: item.libraryId, itemId: item.id })
      }
      await tx.update(batchItems).set({ state: 'ready', itemId: null, previousVersionId: null }).where(eq(batchItems.id, row.id))
      result.changed.push(row.id)
    }
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
  })
  return result
}

/** "Accepted from Intake, fixed: green flipped" */
const describeOrigin = ({ appliedFixes }: BatchItemRow): string =>
  appliedFixes.length === 0
    ? 'Accepted from Intake'
    : `Accepted from Intake, fixed: ${[...new Set(appliedFixes.map(f => FIX_WORDS[f.code].done))].join(', ')}`

function reasonNotToAccept(row: BatchItemRow): string | null {
  switch (row.state) {
    case 'measuring':
      return 'It is still being measured.'
    case 'failed':
      return row.message ?? 'Its files could not be read.'
    case 'accepted':
      return 'It is accepted already.'
    case 'setAside':
      return 'It is set aside.'
    case 'ready':
      return needsWidth(row) && decisionOf(row) !== 'link' ? 'Its real-world width is not known yet.' : null
    default:
      return row.state satisfies never
  }
}

async function createItem(tx: Connection, actor: Actor, libraryId: number, row: BatchItemRow, known: Facts): Promise<number> {
  const code = await takeCode(tx, libraryId, row.category)
  const [item] = await tx
    .insert(items)
    .values({ libraryId, category: row.category, kind: row.kind, code, name: row.name })
    .returning({ id: items.id })
  await addVersion(tx, actor, item.id, { ...row, note: describeOrigin(row), facts: known })
  await recordEvents(tx, [
    { personId: actor.id, subject: 'item', subjectId: item.id, verb: 'accepted', after: { name: row.name } },
  ])
  return item.id
}
