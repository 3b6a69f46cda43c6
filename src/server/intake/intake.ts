import { and, asc, desc, eq, inArray, ne, sql } from 'drizzle-orm'
import type { Finding } from '#core/findings/finding'
import { proposeFix } from '#core/fixes/fix'
import { computeSizeFacts } from '#core/material/analyse-material'
import { findCategory } from '#core/standard/categories'
import { checkStandard, resolveRules } from '#core/standard/category-rules'
import type { Facts } from '#files/items/inspect-item'
import { isMapRole } from '#files/items/load-item'
import type { Batch, BatchItem, BatchSummary, EditBatchItems, NewBatch } from '#shared/contracts/intake.contract'
import { newBatchSchema } from '#shared/contracts/intake.contract'
import { describeFinding } from '#shared/finding-words'
import { keyFigure } from '#shared/key-figure'
import { loadRules } from '../house/load-rules'
import { getLibrary } from '../people/libraries'
import { type Actor, mayEdit, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection, Database } from '../platform/database'
import { recordEvents } from '../platform/events'
import { publish } from '../platform/notify'
import { notAllowed, notFound, ProblemError } from '../platform/problem'
import { rememberFile } from '../platform/storage/stored-files'
import { computeInputKey, findPreviews, previewOf, requestPreview } from '../previews/previews'
import { loadRetired } from '../standard/tree/category-tree'
import { getCategory } from '../standard/tree/move-category'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { files, items } from '../tables/library.table'
import { libraries, people } from '../tables/people.table'
import { decisionOf, describeConflicts, findTwins } from './conflicts'
import { describePlaces, rememberedPlaces } from './places'

export type BatchRow = typeof batches.$inferSelect
export type BatchItemRow = typeof batchItems.$inferSelect

/** Anybody may bring a delivery; what becomes of it is the lead's to decide. */
export async function createBatch(context: Context, actor: Actor, given: NewBatch): Promise<number> {
  const { library, title, maker, licence } = newBatchSchema.parse(given)
  const { id: libraryId } = await getLibrary(context.db, actor, library)
  return context.db.transaction(async tx => {
    const [batch] = await tx
      .insert(batches)
      .values({ libraryId, personId: actor.id, title, maker, licence })
      .returning({ id: batches.id })
    await recordEvents(tx, [{ personId: actor.id, subject: 'batch', subjectId: batch.id, verb: 'created', after: { title } }])
    await publish(tx, { topic: 'batch', libraryId, batchId: batch.id })
    return batch.id
  })
}

export async function getBatchRow(db: Connection, actor: Actor, id: number): Promise<BatchRow> {
  const [row] = await db
    .select()
    .from(batches)
    .where(and(eq(batches.id, id), mayRead(actor, batches.libraryId)))
  if (!row) throw notFound('This batch')
  return row
}

/** Puts one delivered file into a batch; the file on disk is taken over. A path that was there is replaced. */
export async function addBatchFile(
  context: Context,
  actor: Actor,
  batchId: number,
  path: string,
  diskPath: string,
): Promise<void> {
  await getReceivingBatch(context.db, actor, batchId)
  const stored = await context.storage.takeFile(diskPath)
  await rememberFile(context.db, context.storage, stored, path)
  await putBatchFile(context.db, batchId, path, stored)
}

/** A batch that still takes files; throws where it does not. */
export async function getReceivingBatch(db: Connection, actor: Actor, batchId: number): Promise<BatchRow> {
  const batch = await getBatchRow(db, actor, batchId)
  if (batch.state !== 'receiving') throw closedToFiles()
  return batch
}

const closedToFiles = () => new ProblemError('conflict', 'This batch is closed to new files; start another for them.')

/** A stored file under its path in a batch; refused where somebody had it sorted in the meantime, so that no file comes in unseen. */
export async function putBatchFile(
  db: Database,
  batchId: number,
  path: string,
  { hash, size }: { hash: string; size: number },
): Promise<void> {
  await db.transaction(async tx => {
    const [batch] = await tx.select({ state: batches.state }).from(batches).where(eq(batches.id, batchId)).for('share')
    if (batch?.state !== 'receiving') throw closedToFiles()
    await tx
      .insert(batchFiles)
      .values({ batchId, path: cleanPath(path), hash, size })
      .onConflictDoUpdate({ target: [batchFiles.batchId, batchFiles.path], set: { hash, size } })
  })
}

/** Relative and without steps upwards, whatever a browser or a script says. */
const cleanPath = (path: string): string =>
  path
    .replaceAll('\\', '/')
    .split('/')
    .filter(part => part !== '' && part !== '.' && part !== '..')
    .join('/') || 'file'

/**
 * Ends the receiving: from here on the files are sorted into items and measured.
 * @param expected files that their sender knows to have arrived; with fewer the batch stays open
 */
export async function sortBatch(context: Context, actor: Actor, batchId: number, expected = 1): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (batch.state === 'open') return
  if (batch.state === 'receiving') {
    const count = await context.db.$count(batchFiles, eq(batchFiles.batchId, batchId))
    if (count === 0) throw new ProblemError('badRequest', 'No file has arrived yet; drop some first.')
    if (count < expected)
      throw new ProblemError(
        'conflict',
        `Only ${count} of ${expected} files have arrived, and they are kept. Send the delivery again; what is here is not sent twice.`,
      )
    await context.db.transaction(async tx => {
      await tx.update(batches).set({ state: 'sorting' }).where(eq(batches.id, batchId))
      await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    })
  }
  // Asked again while it is being sorted: the job may have been lost with the server that was to send it.
  await context.queue.send('sort-batch', { batchId })
}

export async function listBatches(db: Connection, actor: Actor): Promise<BatchSummary[]> {
  const rows = await selectSummaries(db, actor)
  return rows.map(toSummary)
}

const selectSummaries = (db: Connection, actor: Actor, id?: number) =>
  db
    .select({
      batch: batches,
      library: libraries.title,
      person: people.name,
      files: sql<number>`(select count(*)::int from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome <> 'unpacked')`,
      bytes: sql<number>`(select coalesce(sum(f.size), 0)::bigint from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome <> 'unpacked')`,
      failed: sql<number>`(select count(*)::int from ${batchFiles} f where f.batch_id = ${batches.id} and f.outcome = 'failed')`,
      waiting: sql<number>`(select count(*)::int from ${batchItems} bi where bi.batch_id = ${batches.id} and bi.state in ('measuring', 'ready', 'failed'))`,
      filed: sql<number>`(select count(*)::int from ${batchItems} bi where bi.batch_id = ${batches.id} and bi.state = 'filed')`,
    })
    .from(batches)
    .innerJoin(libraries, eq(libraries.id, batches.libraryId))
    .innerJoin(people, eq(people.id, batches.personId))
    .where(and(mayRead(actor, batches.libraryId), id === undefined ? undefined : eq(batches.id, id)))
    .orderBy(desc(batches.id))

const toSummary = ({ batch, library, person, ...counts }: Awaited<ReturnType<typeof selectSummaries>>[number]): BatchSummary => ({
  id: batch.id,
  title: batch.title,
  library,
  maker: batch.maker,
  licence: batch.licence,
  state: batch.state,
  expectedFiles: batch.expectedFiles,
  person,
  createdAt: batch.createdAt.toISOString(),
  ...counts,
})

export async function getBatch(db: Connection, actor: Actor, id: number): Promise<Batch> {
  const [summary] = await selectSummaries(db, actor, id)
  if (!summary) throw notFound('This batch')
  const rows = await db
    .select({ row: batchItems, itemCode: items.code })
    .from(batchItems)
    .leftJoin(items, eq(items.id, batchItems.itemId))
    .where(eq(batchItems.batchId, id))
    .orderBy(asc(batchItems.category), asc(batchItems.name), asc(batchItems.id))
  const found = await findPreviews(
    db,
    rows.map(r => r.row),
  )
  const known = await describeConflicts(
    db,
    rows.map(r => r.row),
  )
  const twins = await findTwins(
    db,
    rows.map(r => r.row),
  )
  const { libraryId, maker } = summary.batch
  const remembered = await rememberedPlaces(db, { libraryId, maker })
  const rules = await loadRules(db)
  const others = await db
    .select()
    .from(batchFiles)
    .where(and(eq(batchFiles.batchId, id), inArray(batchFiles.outcome, ['leftOver', 'failed'])))
    .orderBy(asc(batchFiles.path))
  return {
    ...toSummary(summary),
    mayEdit: mayEdit(actor),
    places: describePlaces(
      rows.map(r => r.row),
      remembered,
      await loadRetired(db),
    ),
    items: rows.map(({ row, itemCode }): BatchItem => {
      const conflict = toConflictView(row, summary.batch.maker, known)
      return {
        ...row,
        needsWidth: needsWidth(row),
        ...checkStandard(resolveRules(row.category, rules), row.name, factsOf(row, summary.batch)),
        figure: keyFigure(row.kind, { ...row.facts, ...(row.widthMm ? { widthMm: row.widthMm } : {}) }),
        findings: row.findings.map((f, i) =>
          toFindingView(f, {
            before: f.before ? `/api/batches/${id}/items/${row.id}/findings/${i}/before?${f.before.slice(0, 8)}` : null,
            after: f.after ? `/api/batches/${id}/items/${row.id}/findings/${i}/after?${f.after.slice(0, 8)}` : null,
          }),
        ),
        fixes: row.fixes.map(({ code, finding, subject }) => ({ code, finding, subject: subject ?? null })),
        files: row.files.map((f, i) => ({ path: f.path, role: f.role, url: `/api/batches/${id}/items/${row.id}/files/${i}` })),
        preview: previewOf(found, row.inputKey, row.category)?.url ?? null,
        itemCode,
        conflict,
        decision: conflict ? decisionOf(row) : null,
        twinOf: conflict || row.decision === 'keepBoth' ? null : (twins.get(row.id)?.name ?? null),
      }
    }),
    notInItems: others.map(({ path, size, outcome, code, message }) => ({ path, size, outcome, code, message })),
  }
}

function toConflictView(
  { conflict, name }: BatchItemRow,
  maker: string,
  known: Awaited<ReturnType<typeof describeConflicts>>,
): BatchItem['conflict'] {
  const held = conflict ? known.get(conflict.itemId) : undefined
  if (!conflict || !held) return null
  const { kind, differentBits } = conflict
  // Two things of one name are told apart by whose they are.
  const isTaken = kind === 'sameName' && name.toLowerCase() === held.name.toLowerCase()
  const otherName = isTaken ? `${name} ${maker !== '' && !name.includes(maker) ? maker : '2'}` : null
  return { kind, differentBits, otherName, ...held }
}

export const toFindingView = (f: Finding & { id?: number }, pictures: { before: string | null; after: string | null }) => ({
  id: f.id ?? null,
  code: f.code,
  severity: f.severity,
  subject: f.subject ?? null,
  message: describeFinding(f.code, f.evidence),
  fix: proposeFix(f)?.code ?? null,
  ...pictures,
})

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
        .where(and(eq(batchItems.id, id), eq(batchItems.batchId, batchId), ne(batchItems.state, 'filed')))
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
  })
}

/** What is known of a row, its delivery and by whom it was given; what a person gave wins. */
export const factsOf = (row: BatchItemRow, { maker, licence }: { maker: string; licence: string }): Facts => ({
  ...row.facts,
  ...(row.kind === 'material'
    ? computeSizeFacts(row.widthMm, Number(row.facts.widthPx ?? 0), Number(row.facts.heightPx ?? 0))
    : {}),
  // A plant is called by its botanical name, its common one behind it in brackets.
  ...(row.category.startsWith('vegetation') ? { botanicalName: row.name.replace(/ \([^()]*\)$/, '') } : {}),
  ...(maker ? { maker } : {}),
  ...(licence ? { licence } : {}),
  ...(row.place ? { deliveredAs: row.place } : {}),
  ...(row.tags.length > 0 ? { tags: row.tags.join(', ') } : {}),
  sourcePath: row.files[0]?.path ?? '',
  ...row.givenFacts,
})

/** A surface with maps repeats at some size, and nothing renders right before somebody says which. */
export const needsWidth = (row: BatchItemRow): boolean =>
  row.kind === 'material' && row.widthMm === null && row.files.some(f => isMapRole(f.role))

/** Hash of one file of a batch item, for the lead's pictures and the live view. */
export async function getBatchItemFile(db: Connection, actor: Actor, batchId: number, itemId: number, index: number) {
  await getBatchRow(db, actor, batchId)
  const [row] = await db
    .select({ files: batchItems.files })
    .from(batchItems)
    .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, batchId)))
  const file = row?.files[index]
  if (!file) throw notFound('This file')
  const [stored] = await db.select().from(files).where(eq(files.hash, file.hash))
  return { ...stored, path: file.path }
}

/** Hash of the picture of a row's finding: as it is, or as its fix would make it. */
export async function getBatchEvidence(
  db: Connection,
  actor: Actor,
  { id, itemId, index, which }: { id: number; itemId: number; index: number; which: 'before' | 'after' },
): Promise<string> {
  await getBatchRow(db, actor, id)
  const [row] = await db
    .select({ findings: batchItems.findings })
    .from(batchItems)
    .where(and(eq(batchItems.id, itemId), eq(batchItems.batchId, id)))
  const hash = row?.findings[index]?.[which]
  if (!hash) throw notFound('This picture')
  return hash
}

/** Sets facts on rows of the worklist, one or many; what changes a picture sends for a new one. */
export async function editBatchItems(context: Context, actor: Actor, batchId: number, edit: EditBatchItems): Promise<void> {
  const batch = await getBatchRow(context.db, actor, batchId)
  if (!mayEdit(actor)) throw notAllowed('Deciding on a delivery')
  // What a browser still shows may have been merged since.
  if (edit.category !== undefined) await getCategory(context.db, edit.category)
  const changed = await context.db.transaction(async tx => {
    const rows = await tx
      .select()
      .from(batchItems)
      .where(and(eq(batchItems.batchId, batchId), inArray(batchItems.id, edit.ids)))
      .for('update')
    const next: BatchItemRow[] = []
    for (const row of rows) {
      if (row.state === 'filed') continue
      const category = edit.category !== undefined ? findCategory(edit.category) : findCategory(row.category)
      if (!category) throw new ProblemError('badRequest', `There is no category ${edit.category}.`)
      // A bulk choice of category applies to the rows of its kind.
      const fits = category.kind === row.kind
      if (!fits && edit.ids.length === 1)
        throw new ProblemError('badRequest', `${category.title} holds ${category.kind}s; this is a ${row.kind}.`)
      const widthMm = edit.widthMm === undefined || row.kind !== 'material' ? row.widthMm : edit.widthMm
      const setAside = edit.setAside ?? row.state === 'setAside'
      const tiling = edit.tiling === undefined || row.kind !== 'material' ? row.tiling : edit.tiling
      // Whether it repeats decides about its checks as well.
      const moved = (fits && category.path !== row.category) || tiling !== row.tiling
      // What is usual depends on the category, so a row that moves is measured again.
      const settled: BatchItemRow['state'] = setAside ? 'setAside' : moved ? 'measuring' : 'ready'
      const state = row.state === 'measuring' || row.state === 'failed' ? row.state : settled
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
    await publish(tx, { topic: 'batch', libraryId: batch.libraryId, batchId })
    return next
  })
  for (const row of changed) if (row.state === 'measuring') await context.queue.send('measure-item', { batchItemId: row.id })
  for (const row of changed)
    if (row.state === 'ready' && !needsWidth(row))
      await requestPreview(context.db, context.queue, { inputKey: row.inputKey, category: row.category, quality: 'draft' }, 20)
}
