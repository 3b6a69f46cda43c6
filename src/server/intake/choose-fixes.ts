import { and, eq } from 'drizzle-orm'
import { orderFixes, proposeFix } from '#core/fixes/fix'
import type { ChooseFixes } from '#shared/contracts/intake.contract'
import type { BulkResult } from '#shared/contracts/items.contract'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed } from '../platform/problem'
import { batchItems, type ChosenFix } from '../tables/intake.table'
import { getBatchRow } from './batches'
import type { BatchItemRow } from './rows'

/**
 * Chooses the fixes that answer findings of some codes on rows of a worklist, or takes them back. The files are made anew by the
 * measuring that follows, always from those delivered.
 */
export async function chooseFixes(context: Context, actor: Actor, batchId: number, wish: ChooseFixes): Promise<BulkResult> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Fixing a delivery')
  const result: BulkResult = { changed: [], refused: [] }
  await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.batchId, batchId), isOneOf(batchItems.id, wish.ids)))
      .orderBy(batchItems.id)
      .for('update')
    for (const row of rows) {
      const fixes = wish.takeBack ? withoutFixes(row, wish) : withFixes(row, wish)
      if (fixes.length === row.fixes.length) continue
      if (row.state !== 'ready') {
        result.refused.push({ id: row.id, code: row.name, reason: reasonNotToFix(row) })
        continue
      }
      await tx
        .update(batchItems)
        .set({ fixes, sourceFiles: row.sourceFiles ?? row.files, state: 'measuring', message: null })
        .where(eq(batchItems.id, row.id))
      result.changed.push(row.id)
    }
    if (result.changed.length > 0) {
      const verb = wish.takeBack ? 'unfixed' : 'fixed'
      await recordEvents(tx, [
        { personId: actor.id, subject: 'batch', subjectId: batchId, verb, after: { codes: wish.codes, items: result.changed } },
      ])
      await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId, rowIds: result.changed })
      await context.queue.send(
        tx,
        'measure-item',
        result.changed.map(batchItemId => ({ batchItemId })),
      )
    }
  })
  return result
}

function withFixes(row: BatchItemRow, { codes, subject }: ChooseFixes): ChosenFix[] {
  const chosen = row.findings
    .filter(f => codes.includes(f.code) && (subject === undefined || f.subject === subject))
    .flatMap((f): ChosenFix[] => {
      const fix = proposeFix(f)
      return fix ? [{ ...fix, finding: f.code }] : []
    })
  return orderFixes([...row.fixes, ...chosen]) as ChosenFix[]
}

const withoutFixes = (row: BatchItemRow, { codes, subject }: ChooseFixes): ChosenFix[] =>
  row.fixes.filter(f => !(codes.includes(f.finding) && (subject === undefined || (f.subject ?? subject) === subject)))

function reasonNotToFix({ state, message }: BatchItemRow): string {
  switch (state) {
    case 'measuring':
      return 'It is still being measured.'
    case 'failed':
      return message ?? 'Its files could not be read.'
    case 'accepted':
      return 'It is accepted already; fix it on its sheet.'
    case 'setAside':
      return 'It is set aside.'
    default:
      return 'It is not ready.'
  }
}
