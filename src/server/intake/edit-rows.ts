import { and, eq, ne } from 'drizzle-orm'
import { findCategory } from '#core/standard/categories'
import type { Facts } from '#files/items/inspect-item'
import type { EditBatchItems } from '#shared/contracts/intake.contract'
import { getCategory } from '../house/categories'
import { computeInputKey } from '../items/input-key'
import { type Actor, mayEdit } from '../platform/access'
import type { Context } from '../platform/context'
import { isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import { notAllowed, ProblemError } from '../platform/problem'
import { requestPreviews } from '../previews/previews'
import { batchItems } from '../tables/intake.table'
import { getBatchRow } from './batches'
import { type BatchItemRow, needsWidth } from './rows'

function mergeFacts(given: Facts, edit: EditBatchItems['facts']): Facts {
  if (!edit) return given
  const merged = { ...given }
  for (const [name, value] of Object.entries(edit)) {
    if (value === null || value === '') delete merged[name]
    else merged[name] = value
  }
  return merged
}

/** Gives rows the names that somebody chose for each. */
export async function renameBatchItems(
  context: Context,
  actor: Actor,
  batchId: number,
  names: readonly { id: number; name: string }[],
): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Deciding on a delivery')
  await context.db.transaction(async tx => {
    for (const { id, name } of names)
      await tx
        .update(batchItems)
        .set({ name })
        .where(and(eq(batchItems.id, id), eq(batchItems.batchId, batchId), ne(batchItems.state, 'accepted')))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId, rowIds: names.map(n => n.id) })
  })
}

/** What was set aside may have been set aside before it was measured, so when it is taken back it is measured again. */
function nextState(
  state: BatchItemRow['state'],
  { setAside, measureAgain }: Pick<EditBatchItems, 'setAside' | 'measureAgain'>,
  moved: boolean,
): BatchItemRow['state'] {
  if (setAside) return 'setAside'
  if (state === 'setAside') return setAside === false ? 'measuring' : state
  if (measureAgain && state === 'failed') return 'measuring'
  return moved && state === 'ready' ? 'measuring' : state
}

/** What is flat has a width in the real world. */
const hasWidth = ({ kind }: BatchItemRow): boolean => kind === 'material' || kind === 'map'

/** Sets facts on rows of the worklist, one or many; what changes a picture sends for a new one. */
export async function editBatchItems(context: Context, actor: Actor, batchId: number, edit: EditBatchItems): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Deciding on a delivery')
  // What a browser still shows may have been merged since.
  if (edit.category !== undefined) await getCategory(context.db, edit.category)
  await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.batchId, batchId), isOneOf(batchItems.id, edit.ids)))
      .for('update')
    const next: BatchItemRow[] = []
    for (const row of rows) {
      if (row.state === 'accepted') continue
      const category = edit.category !== undefined ? findCategory(edit.category) : findCategory(row.category)
      if (!category) throw new ProblemError('badRequest', `There is no category ${edit.category}.`)
      // A bulk choice of category applies to the rows of its kind.
      const fits = category.kind === row.kind
      if (!fits && edit.ids.length === 1)
        throw new ProblemError('badRequest', `${category.title} holds ${category.kind}s; this is a ${row.kind}.`)
      const widthMm = edit.widthMm === undefined || !hasWidth(row) ? row.widthMm : edit.widthMm
      const tiling = edit.tiling === undefined || row.kind !== 'material' ? row.tiling : edit.tiling
      // Whether it repeats decides about its checks as well.
      const moved = (fits && category.path !== row.category) || tiling !== row.tiling
      // What is usual depends on the category, so a row that moves is measured again.
      const state = nextState(row.state, edit, moved)
      const updated = {
        ...row,
        name: edit.name ?? row.name,
        givenFacts: mergeFacts(row.givenFacts, edit.facts),
        category: fits ? category.path : row.category,
        categoryConfidence: fits && edit.category !== undefined ? 1 : row.categoryConfidence,
        widthMm,
        tiling,
        state,
        inputKey: computeInputKey({ ...row, widthMm, tiling }),
        decision: edit.decision ?? row.decision,
        findings: widthMm !== null ? row.findings.filter(f => f.code !== 'realWorldSizeMissing') : row.findings,
      }
      await tx.update(batchItems).set(updated).where(eq(batchItems.id, row.id))
      next.push(updated)
    }
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId, rowIds: next.map(r => r.id) })
    await context.queue.send(
      tx,
      'measure-item',
      next.filter(row => row.state === 'measuring').map(row => ({ batchItemId: row.id })),
    )
    const shown = next.filter(row => row.state === 'ready' && !needsWidth(row))
    await requestPreviews(
      tx,
      context.queue,
      shown.map(({ inputKey, category }) => ({ inputKey, category, quality: 'draft' })),
      20,
    )
  })
}
