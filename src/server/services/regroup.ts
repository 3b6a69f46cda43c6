import { and, eq, inArray, ne, sql } from 'drizzle-orm'
import { extensionOf } from '#core/codecs/sniff'
import { parseMapName } from '#core/material/texture-set'
import { type ItemKind, proposeTitle, suggestCategory } from '#core/standard/categories'
import { isMapRole } from '#files/load-item'
import { stemWords } from '#files/recognize-delivery'
import type { Regroup } from '#shared/contracts/intake.contract'
import { type Actor, mayEdit } from '../db/access'
import type { Connection } from '../db/database'
import { type BatchItemFile, batchFiles, batchItems } from '../db/intake.table'
import { events } from '../db/library.table'
import { publish } from '../db/notify'
import { followRetired, loadRetired } from './category-tree'
import type { Context } from './context'
import { type BatchItemRow, getBatchRow } from './intake'
import { computeInputKey } from './previews'
import { notAllowed, notFound, ProblemError } from './problem'

/** What a regrouping changed, as it was before: enough to put it back. */
interface Snapshot {
  rows: BatchItemRow[]
  /** Rows that the regrouping made. */
  made: number[]
  files: { path: string; outcome: 'inItem' | 'leftOver'; code: string | null }[]
}

/**
 * Sorts files of a batch into other rows by hand. Rows concerned are measured again from the files as delivered: fixes chosen before are
 * dropped, since what they answered may be gone.
 * @returns by what it is undone, and the rows that are to be measured
 */
export async function regroup(context: Context, actor: Actor, batchId: number, wish: Regroup): Promise<{ undo: number }> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Sorting a delivery by hand')
  const { undo, measure } = await context.db.transaction(async tx => {
    const rows = await lockRows(tx, batchId, 'ids' in wish ? wish.ids : wish.itemId === null ? [] : [wish.itemId])
    const snapshot: Snapshot = { rows, made: [], files: [] }
    const change = new Change(tx, batchId, snapshot)
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
        break
      default:
        wish satisfies never
    }
    const [event] = await tx
      .insert(events)
      .values({ personId: actor.id, subject: 'batch', subjectId: batchId, verb: 'regrouped', before: snapshot, after: wish })
      .returning({ id: events.id })
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return { undo: event.id, measure: change.toMeasure }
  })
  for (const batchItemId of measure) await context.queue.send('measure-item', { batchItemId })
  return { undo }
}

/** Puts a regrouping back as it was before, unless something of it was filed or regrouped since. */
export async function undoRegroup(context: Context, actor: Actor, batchId: number, eventId: number): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Sorting a delivery by hand')
  const measure = await context.db.transaction(async tx => {
    const [event] = await tx
      .select()
      .from(events)
      .where(
        and(eq(events.id, eventId), eq(events.subject, 'batch'), eq(events.subjectId, batchId), eq(events.verb, 'regrouped')),
      )
    if (!event) throw notFound('What should be taken back')
    const { rows, made, files } = event.before as Snapshot
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
        ),
      )
    if (
      since.some(e =>
        [...(e.before as Snapshot).rows.map(r => r.id), ...(e.before as Snapshot).made].some(id => touched.includes(id)),
      )
    )
      throw new ProblemError('conflict', 'These rows were sorted again since; take that back first.')
    const held = await lockRows(tx, batchId, [...made])
    await tx.delete(batchItems).where(inArray(batchItems.id, [0, ...held.map(r => r.id)]))
    for (const row of rows) {
      const [now] = await tx.select({ state: batchItems.state }).from(batchItems).where(eq(batchItems.id, row.id)).for('update')
      if (now?.state === 'filed') throw new ProblemError('conflict', `${row.name} was filed since.`)
      const restored = { ...row, state: row.state === 'ready' ? ('measuring' as const) : row.state }
      if (now) await tx.update(batchItems).set(restored).where(eq(batchItems.id, row.id))
      else await tx.insert(batchItems).values(restored)
    }
    for (const { path, outcome, code } of files)
      await tx
        .update(batchFiles)
        .set({ outcome, code: code as never })
        .where(and(eq(batchFiles.batchId, batchId), eq(batchFiles.path, path)))
    await tx.update(events).set({ verb: 'regroupUndone' }).where(eq(events.id, eventId))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return rows.filter(r => r.state === 'ready' || r.state === 'measuring').map(r => r.id)
  })
  for (const batchItemId of measure) await context.queue.send('measure-item', { batchItemId })
}

/** The rows of these ids, locked; none of them may be filed. */
async function lockRows(tx: Connection, batchId: number, ids: readonly number[]): Promise<BatchItemRow[]> {
  if (ids.length === 0) return []
  const rows = await tx
    .select()
    .from(batchItems)
    .where(and(eq(batchItems.batchId, batchId), inArray(batchItems.id, [...ids])))
    .orderBy(batchItems.id)
    .for('update')
  if (rows.length !== new Set(ids).size) throw notFound('A row of this')
  const filed = rows.find(r => r.state === 'filed')
  if (filed) throw new ProblemError('conflict', `${filed.name} is filed already; take its filing back first.`)
  return rows
}

/** The files of a row as they were delivered, without what fixes made of them. */
const deliveredFiles = (row: BatchItemRow): BatchItemFile[] => row.sourceFiles ?? row.files

class Change {
  readonly toMeasure: number[] = []

  constructor(
    private readonly tx: Connection,
    private readonly batchId: number,
    private readonly snapshot: Snapshot,
  ) {}

  async split(row: BatchItemRow, paths: readonly string[]): Promise<void> {
    const { mine, rest } = this.divide(row, paths)
    if (rest.length === 0) throw new ProblemError('badRequest', 'These are all files of the row; nothing would be left of it.')
    await this.setFiles(row, rest)
    await this.makeRow(mine, { place: row.place, tags: row.tags, widthMm: row.widthMm })
  }

  async merge(rows: readonly BatchItemRow[], order: readonly number[]): Promise<void> {
    const [first, ...others] = order.map(id => rows.find(r => r.id === id)!)
    if (others.length === 0) throw new ProblemError('badRequest', 'Mark two rows or more to make one of them.')
    if (others.some(r => r.kind !== first.kind)) throw new ProblemError('badRequest', 'Only rows of one kind can become one.')
    const files = others.reduce((all, row) => joinFiles(all, deliveredFiles(row)), deliveredFiles(first))
    await this.tx.delete(batchItems).where(
      inArray(
        batchItems.id,
        others.map(r => r.id),
      ),
    )
    await this.setFiles({ ...first, tags: [...new Set([first, ...others].flatMap(r => r.tags))] }, files)
  }

  async leave(row: BatchItemRow, paths: readonly string[]): Promise<void> {
    const { rest } = this.divide(row, paths)
    await this.setOutcome(paths, 'leftOver', 'byHand')
    if (rest.some(f => isMainRole(f.role))) await this.setFiles(row, rest)
    else {
      // Nothing is left that could be an item.
      await this.setOutcome(
        rest.map(f => f.path),
        'leftOver',
        'byHand',
      )
      await this.tx.delete(batchItems).where(eq(batchItems.id, row.id))
    }
  }

  /** Files that lay beside the rows go into one, or become a row of their own. */
  async take(row: BatchItemRow | null, paths: readonly string[]): Promise<void> {
    const given = await this.tx
      .select()
      .from(batchFiles)
      .where(and(eq(batchFiles.batchId, this.batchId), inArray(batchFiles.path, [...paths]), eq(batchFiles.outcome, 'leftOver')))
    const files = given.flatMap(f => (f.hash === null ? [] : [toItemFile(f.path, f.hash, row?.kind ?? null)]))
    if (files.length === 0) throw new ProblemError('badRequest', 'These files are in a row already, or did not arrive whole.')
    await this.setOutcome(
      files.map(f => f.path),
      'inItem',
      null,
    )
    if (row) await this.setFiles(row, joinFiles(deliveredFiles(row), files))
    else await this.makeRow(files, { place: '', tags: [], widthMm: null })
  }

  async setRole(row: BatchItemRow, path: string, role: string): Promise<void> {
    const files = deliveredFiles(row)
    if (!files.some(f => f.path === path)) throw notFound('This file')
    const next = files.map(f => {
      if (f.path === path) return { ...f, role, byContentOnly: false }
      // One map for each role: the one that had it stands aside.
      return f.role === role && isMapRole(role) ? { ...f, role: 'alternate' } : f
    })
    await this.setFiles(row, next)
  }

  private divide(row: BatchItemRow, paths: readonly string[]) {
    const files = deliveredFiles(row)
    const mine = files.filter(f => paths.includes(f.path))
    if (mine.length === 0) throw notFound('This file')
    return { mine, rest: files.filter(f => !paths.includes(f.path)) }
  }

  private async setFiles(row: BatchItemRow, files: BatchItemFile[]): Promise<void> {
    await this.tx
      .update(batchItems)
      .set({
        files,
        tags: row.tags,
        sourceFiles: null,
        fixes: [],
        appliedFixes: [],
        facts: {},
        findings: [],
        conflict: null,
        decision: null,
        message: null,
        state: 'measuring',
        inputKey: computeInputKey({ ...row, files }),
      })
      .where(eq(batchItems.id, row.id))
    this.toMeasure.push(row.id)
  }

  private async makeRow(files: BatchItemFile[], more: { place: string; tags: string[]; widthMm: number | null }): Promise<void> {
    const kind = kindOf(files)
    const main = files.find(f => isMainRole(f.role)) ?? files[0]
    const words = kind === 'material' ? parseMapName(main.path).stem.split(' ').filter(Boolean) : stemWords(main.path)
    const { path, confidence } = suggestCategory(kind, words)
    const category = followRetired(path, await loadRetired(this.tx))
    const ready = files.map(f => (kind === 'material' ? f : f === main ? { ...f, role: kind } : f))
    const [row] = await this.tx
      .insert(batchItems)
      .values({
        batchId: this.batchId,
        kind,
        name: proposeTitle(words),
        category,
        categoryConfidence: confidence,
        constants: {},
        files: ready,
        inputKey: computeInputKey({ files: ready, widthMm: more.widthMm, constants: {} }),
        ...more,
      })
      .returning({ id: batchItems.id })
    this.snapshot.made.push(row.id)
    this.toMeasure.push(row.id)
  }

  private async setOutcome(paths: readonly string[], outcome: 'inItem' | 'leftOver', code: 'byHand' | null): Promise<void> {
    if (paths.length === 0) return
    const where = and(
      eq(batchFiles.batchId, this.batchId),
      inArray(batchFiles.path, [...paths]),
      ne(batchFiles.outcome, 'failed'),
    )
    const before = await this.tx.select().from(batchFiles).where(where)
    for (const { path, outcome: was, code: wasCode } of before)
      this.snapshot.files.push({ path, outcome: was === 'leftOver' ? 'leftOver' : 'inItem', code: wasCode })
    await this.tx.update(batchFiles).set({ outcome, code }).where(where)
  }
}

const isMainRole = (role: string): boolean => isMapRole(role) || ['model', 'environment', 'definition'].includes(role)

/** A second map of a role stands beside the first as another size of it. */
function joinFiles(first: readonly BatchItemFile[], second: readonly BatchItemFile[]): BatchItemFile[] {
  const roles = new Set(first.map(f => f.role))
  return [
    ...first,
    ...second.map(f => (isMainRole(f.role) && roles.has(f.role) ? { ...f, role: f.role === 'model' ? 'lod' : 'alternate' } : f)),
  ]
}

const kindOf = (files: readonly BatchItemFile[]): ItemKind => {
  const endings = files.map(f => extensionOf(f.path))
  if (endings.some(e => ['glb', 'gltf', 'obj'].includes(e))) return 'model'
  const isSky = files.some(f => f.role === 'environment') || endings.some(e => e === 'hdr')
  return isSky ? 'environment' : 'material'
}

/** A file that lay beside the rows, with the role that its name and where it goes suggest. */
function toItemFile(path: string, hash: string, kind: ItemKind | null): BatchItemFile {
  const ending = extensionOf(path)
  const { role, handedness } = parseMapName(path)
  const isPicture = ['png', 'jpg', 'jpeg', 'webp', 'tif', 'tiff', 'exr'].includes(ending)
  const given =
    ['glb', 'gltf', 'obj'].includes(ending) && kind !== 'material'
      ? 'model'
      : ending === 'hdr' || (ending === 'exr' && !role)
        ? 'environment'
        : isPicture
          ? kind === 'model'
            ? 'modelPart'
            : (role ?? (kind === null ? 'baseColor' : 'picture'))
          : ending === 'mtl' || ending === 'bin'
            ? 'modelPart'
            : 'document'
  return { path, hash, role: given, byContentOnly: false, handednessHint: handedness }
}
