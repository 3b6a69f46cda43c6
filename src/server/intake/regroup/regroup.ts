import { and, eq, sql } from 'drizzle-orm'
import { readLongestSide } from '#files/reading/longest-side'
import type { Regroup } from '#shared/contracts/intake.contract'
import { type Actor, mayEdit } from '../../platform/access'
import type { Context } from '../../platform/context'
import { type Connection, isOneOf } from '../../platform/database'
import { isUndone, recordEvents } from '../../platform/events'
import { publish } from '../../platform/notify'
import { notAllowed, notFound, ProblemError } from '../../platform/problem'
import { batchFiles, batchItems } from '../../tables/intake.table'
import { events } from '../../tables/library.table'
import { getBatchRow } from '../batches'
import type { BatchItemRow } from '../rows'
import { deliveredFiles } from '../rows'
import { RegroupChange, type Snapshot } from './regroup-change'
import { learnRoleWord, unlearnRoleWord } from './role-words'

/**
 * Sorts files of a batch into other rows by hand. Rows concerned are measured again from the files as delivered: fixes chosen before are
 * dropped, since what they answered may be gone.
 * @returns by what it is undone, and the rows that are to be measured
 */
export async function regroup(context: Context, actor: Actor, batchId: number, wish: Regroup): Promise<{ undo: number }> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Sorting a delivery by hand')
  return context.db.transaction(async tx => {
    const rows = await lockRows(
      tx,
      batchId,
      'ids' in wish ? wish.ids : wish.itemId === null ? [] : [wish.itemId],
      wish.action === 'take',
    )
    const snapshot: Snapshot = { rows, made: [], files: [] }
    const change = new RegroupChange(tx, batchId, snapshot)
    switch (wish.action) {
      case 'split':
        await change.split(rows[0], wish.paths)
        break
      case 'merge':
        await change.merge(rows, wish.ids)
        break
      case 'leave':
        await change.leave(rows[0], wish.paths)
        break
      case 'take':
        await change.take(rows[0] ?? null, wish.paths)
        break
      case 'setRole':
        await change.setRole(rows[0], wish.path, wish.role)
        snapshot.learned = await learnRoleWord(tx, actor, batch, rows[0], wish)
        break
      case 'chooseSize':
        for (const row of rows) await change.chooseSize(row, wish.px, wish.leaveRest, await measureSizes(context, row))
        break
      case 'setKind':
        await change.setKind(rows, wish.kind, wish.tiling)
        break
      case 'leaveRoles':
        for (const row of rows) await change.leaveRoles(row, wish.roles)
        break
      default:
        wish satisfies never
    }
    const [event] = await tx
      .insert(events)
      .values({ personId: actor.id, subject: 'batch', subjectId: batchId, verb: 'regrouped', before: snapshot, after: wish })
      .returning({ id: events.id })
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    await sendToMeasure(context, tx, change.toMeasure)
    return { undo: event.id }
  })
}

/** Puts a regrouping back as it was before, unless something of it was accepted or regrouped since. */
export async function undoRegroup(context: Context, actor: Actor, batchId: number, eventId: number): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Sorting a delivery by hand')
  await context.db.transaction(async tx => {
    const [event] = await tx
      .select()
      .from(events)
      .where(
        and(eq(events.id, eventId), eq(events.subject, 'batch'), eq(events.subjectId, batchId), eq(events.verb, 'regrouped')),
      )
    if (!event || (await isUndone(tx, event))) throw notFound('What should be taken back')
    const { rows, made, files, learned } = event.before as Snapshot
    const touched = [...rows.map(r => r.id), ...made]
    const since = await tx
      .select({ id: events.id, before: events.before })
      .from(events)
      .where(
        and(
          eq(events.subject, 'batch'),
          eq(events.subjectId, batchId),
          eq(events.verb, 'regrouped'),
          sql`${events.id} > ${eventId}`,
          sql`not exists (select from events u where u.subject = 'batch' and u.subject_id = ${batchId} and u.after ->> 'undoes' = ${events.id}::text)`,
        ),
      )
    if (
      since.some(e =>
        [...(e.before as Snapshot).rows.map(r => r.id), ...(e.before as Snapshot).made].some(id => touched.includes(id)),
      )
    )
      throw new ProblemError('conflict', 'These rows were sorted again since; take that back first.')
    const held = await lockRows(tx, batchId, [...made])
    await tx.delete(batchItems).where(isOneOf(batchItems.id, [0, ...held.map(r => r.id)]))
    for (const row of rows) {
      const [now] = await tx.select({ state: batchItems.state }).from(batchItems).where(eq(batchItems.id, row.id)).for('update')
      if (now?.state === 'accepted') throw new ProblemError('conflict', `${row.name} was accepted since.`)
      const restored = { ...row, state: row.state === 'ready' ? ('measuring' as const) : row.state }
      if (now) await tx.update(batchItems).set(restored).where(eq(batchItems.id, row.id))
      else await tx.insert(batchItems).values(restored)
    }
    for (const { path, outcome, code } of files)
      await tx
        .update(batchFiles)
        .set({ outcome, code: code as never })
        .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.path, path)))
    // Noted before what a word had meant was kept: it was new then.
    if (learned) await unlearnRoleWord(tx, batch, typeof learned === 'string' ? { word: learned, before: null } : learned)
    await recordEvents(tx, [
      { personId: actor.id, subject: 'batch', subjectId: batchId, verb: 'regroupUndone', after: { undoes: eventId } },
    ])
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    await sendToMeasure(
      context,
      tx,
      rows.filter(r => r.state === 'ready' || r.state === 'measuring').map(r => r.id),
    )
  })
}

const sendToMeasure = ({ queue }: Context, tx: Connection, ids: readonly number[]): Promise<void> =>
  queue.send(
    tx,
    'measure-item',
    ids.map(batchItemId => ({ batchItemId })),
  )

/** The rows of these ids, locked; none of them may be accepted, but where files go beside what was accepted. */
async function lockRows(tx: Connection, batchId: number, ids: readonly number[], mayBeAccepted = false): Promise<BatchItemRow[]> {
  if (ids.length === 0) return []
  const rows = await tx
    .select()
    .from(batchItems)
    .where(and(eq(batchItems.batchId, batchId), isOneOf(batchItems.id, [...ids])))
    .orderBy(batchItems.id)
    .for('update')
  if (rows.length !== new Set(ids).size) throw notFound('A row of this')
  const accepted = rows.find(r => r.state === 'accepted')
  if (accepted && !mayBeAccepted)
    throw new ProblemError('conflict', `${accepted.name} is accepted already; take that back first.`)
  return rows
}

/** Longer side of each picture of a row, in pixels, by path; of what does not read, none. */
async function measureSizes({ storage }: Context, row: BatchItemRow): Promise<Map<string, number>> {
  const sizes = new Map<string, number>()
  for (const { path, hash } of deliveredFiles(row)) {
    const px = await readLongestSide(await storage.localPath(hash), path)
    if (px !== null) sizes.set(path, px)
  }
  return sizes
}
