import { and, eq, sql } from 'drizzle-orm'
import { tokenizeName } from '#core/file-names'
import { FileError, toFailure } from '#core/findings/failure'
import { type KnownOfItem, proposeAgain } from '#core/standard/propose-category'
import type { DerivedFile } from '#files/fixes/apply-fixes'
import { type ItemSource, withGivenFacts } from '#files/items/item-source'
import { followRetired, loadRetired } from '../house/categories'
import { rulesFor } from '../house/load-rules'
import { putDerivedFiles, seeFindings } from '../items/derived-files'
import { computeInputKey } from '../items/input-key'
import { openMaterials, openSource } from '../items/version-source'
import { type Connection, isOneOf } from '../platform/database'
import { publish } from '../platform/notify'
import type { Jobs } from '../platform/queue'
import type { WorkContext } from '../platform/work-context'
import { requestPreviews } from '../previews/previews'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { items, versionFiles, versions } from '../tables/library.table'
import { findConflict, inheritWidth, rememberFingerprint } from './conflicts'
import { loadEarlierCategories } from './earlier-categories'
import { needsWidth } from './rows'

type Row = typeof batchItems.$inferSelect

/**
 * Measures one row of a worklist, its fixes applied first: its files, its facts and its findings. Whoever edits the row meanwhile wins:
 * what was measured of an older revision is dropped, and the row measured as it is now.
 */
export async function measureItemJob(context: WorkContext, { batchItemId }: Jobs['measure-item']): Promise<void> {
  for (;;) {
    const [found] = await context.db
      .select({ row: batchItems, batch: batches })
      .from(batchItems)
      .innerJoin(batches, eq(batches.id, batchItems.batchId))
      .where(eq(batchItems.id, batchItemId))
    if (found?.row.state !== 'measuring') return
    if (await measureRow(context, found.row, found.batch)) return
  }
}

/** Whether it is done: false where the row is another one by now. */
async function measureRow(context: WorkContext, row: Row, batch: typeof batches.$inferSelect): Promise<boolean> {
  const { db } = context
  const { libraryId } = batch
  try {
    const assembled = await takeHouseForms(context, row, libraryId)
    if (!assembled) return false
    const { complaint, ...fixed } = await applyChosenFixes(context, assembled)
    const inputs = { ...assembled, ...fixed }
    const inspect = async (category: string) =>
      context.intakePool.run('inspect', {
        source: await openRow(context, inputs),
        category,
        rules: await rulesFor(db, category),
      })
    let inspection = await inspect(row.category)
    const earlier = await loadEarlierCategories(db, batch)
    const placed = placeAgain(row, { facts: inspection.facts, earlier: earlier.get(row.kind) }, await loadRetired(db))
    // Another category may ask for something else.
    if (placed.category !== row.category) inspection = await inspect(placed.category)
    const { facts, failures, fingerprint } = inspection
    const seen = await seeFindings(context, inspection)
    const main = fixed.files.find(f => f.path === fingerprint?.path)
    if (main && fingerprint) await rememberFingerprint(db, main.hash, fingerprint)
    const found = await findConflict(db, libraryId, inputs, fingerprint)
    return await db.transaction(async tx => {
      const now = await holdRevision(tx, assembled)
      if (!now) return false
      // What somebody put beside an accepted row stays the next version of that, whatever it looks like.
      const conflict = now.decision === 'newVersion' && now.conflict ? now.conflict : found
      const widthMm = now.widthMm ?? (await inheritWidth(tx, conflict))
      const inputKey = computeInputKey({ ...inputs, widthMm })
      await tx
        .update(batchItems)
        .set({
          ...fixed,
          ...placed,
          message: complaint,
          facts,
          findings: widthMm === null ? seen : seen.filter(f => f.code !== 'realWorldSizeMissing'),
          widthMm,
          inputKey,
          conflict,
          state: 'ready',
          files: fixed.files.filter(f => !failures.some(x => x.path === f.path)),
        })
        .where(eq(batchItems.id, row.id))
      for (const { path, code, message } of failures)
        await tx
          .update(batchFiles)
          .set({ outcome: 'failed', code, message })
          .where(and(eq(batchFiles.batchId, row.batchId), eq(batchFiles.path, path)))
      await publish(tx, { topic: 'batch', libraryId, batchId: row.batchId, rowIds: [row.id] })
      if (!needsWidth({ ...inputs, widthMm }))
        await requestPreviews(tx, context.queue, [{ inputKey, category: placed.category, quality: 'draft' }], 5)
      return true
    })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    const { code, message } = toFailure(error)
    return db.transaction(async tx => {
      if (!(await holdRevision(tx, row))) return false
      await tx.update(batchItems).set({ state: 'failed', message }).where(eq(batchItems.id, row.id))
      await tx
        .update(batchFiles)
        .set({ outcome: 'failed', code, message })
        .where(
          and(
            eq(batchFiles.batchId, row.batchId),
            isOneOf(
              batchFiles.path,
              row.files.map(f => f.path),
            ),
          ),
        )
      await publish(tx, { topic: 'batch', libraryId, batchId: row.batchId, rowIds: [row.id] })
      return true
    })
  }
}

/** The row, locked, if it is still being measured at the revision that was read. */
async function holdRevision(tx: Connection, { id, revision }: Pick<Row, 'id' | 'revision'>): Promise<Row | null> {
  const [now] = await tx.select().from(batchItems).where(eq(batchItems.id, id)).for('update')
  return now?.state === 'measuring' && now.revision === revision ? now : null
}

/** Where a row belongs now that it is measured, in the tree as it is. */
function placeAgain(
  row: Row,
  measured: Pick<KnownOfItem, 'facts' | 'earlier'>,
  retired: ReadonlyMap<string, string>,
): Pick<Row, 'category' | 'categoryConfidence'> {
  const known = { words: tokenizeName(row.name), folders: row.sourceFolder.split(' / '), ...measured }
  const placed = proposeAgain(row.kind, known, row)
  return { category: followRetired(placed.category, retired), categoryConfidence: placed.categoryConfidence }
}

const openRow = async (context: WorkContext, row: Row): Promise<ItemSource> =>
  withGivenFacts(await openSource(context, row, row.files), row.givenFacts)

/**
 * What came in several files, compressed or in a form that the house does not work with, becomes what it does, under the same name; what
 * it was made of stays with the item. Written down at once, so that it is what the fixes begin with, and done once.
 * @returns null where the row was changed meanwhile
 */
async function takeHouseForms(context: WorkContext, row: Row, libraryId: number): Promise<Row | null> {
  let { files } = row
  if (row.sourceFiles || isInHouseForm(row)) return row
  const first = await context.intakePool.run('takeHouseForm', { source: await openRow(context, row) })
  let made = first.files
  const lent = await findInLibrary(context.db, libraryId, first.missing)
  if (lent.length > 0) {
    files = [...files, ...lent]
    made = (await context.intakePool.run('takeHouseForm', { source: await openRow(context, { ...row, files }) })).files
  }
  if (made.length === 0) return row
  const originals = files
    .filter(f => made.some(m => m.from === f.path))
    .map(f => ({ ...f, role: isModelRole(f.role) && !/\.glb$/i.test(f.path) ? 'modelPart' : 'original' }))
  const next = [...(await putDerivedFiles(context, files, made)), ...originals]
  const [kept] = await context.db
    .update(batchItems)
    .set({ files: next })
    .where(and(eq(batchItems.id, row.id), eq(batchItems.revision, row.revision)))
    .returning()
  return kept ?? null
}

/** Files that the library holds under the names of what a delivery left behind: the one that came last. */
async function findInLibrary(db: Connection, libraryId: number, addresses: readonly string[]): Promise<Row['files']> {
  const names = addresses.map(a => a.split(/[\\/]/).at(-1)?.toLowerCase() ?? '').filter(Boolean)
  if (names.length === 0) return []
  const name = sql<string>`lower(regexp_replace(${versionFiles.path}, '^.*/', ''))`
  const found = await db
    .select({ path: versionFiles.path, hash: versionFiles.hash, name })
    .from(versionFiles)
    .innerJoin(versions, eq(versions.id, versionFiles.versionId))
    .innerJoin(items, eq(items.id, versions.itemId))
    .where(and(eq(items.libraryId, libraryId), isOneOf(name, names)))
    .orderBy(versions.id)
  const last = [...new Map(found.map(f => [f.name, f])).values()]
  return last.map(({ path, hash }) => ({ path, hash, role: 'modelPart', byContentOnly: false, handednessHint: null }))
}

/** A definition may describe maps that are not there yet. */
const isInHouseForm = ({ kind, files, givenFacts }: Row): boolean =>
  kind === 'light' ||
  (kind === 'map' && givenFacts.cutOut === undefined && files.every(f => PLAIN_ENDING.test(f.path))) ||
  (kind === 'material' && files.every(f => PLAIN_ENDING.test(f.path) && f.role !== 'definition') && !mayHideOpacity(files))

/** A base colour of a kind that may have alpha, and no map that says it. */
const mayHideOpacity = (files: Row['files']): boolean =>
  files.some(f => f.role === 'baseColor' && /\.(png|webp)$/i.test(f.path)) && !files.some(f => f.role === 'opacity')

/** Of a material or a sky these stay as they come; a TIFF may hold floats. */
const PLAIN_ENDING = /\.(png|jpe?g|webp|gif|hdr|mtlx|txt|md|pdf|csv|json)$/i

const isModelRole = (role: string): boolean => role === 'model' || role === 'lod'

interface Fixed extends Pick<Row, 'files' | 'fixes' | 'appliedFixes'> {
  /** Why nothing came of a fix. */
  complaint: string | null
}

/** The files that the chosen fixes make of those delivered. Always from the delivered ones: a fix taken back leaves no trace. */
async function applyChosenFixes(context: WorkContext, row: Row): Promise<Fixed> {
  const { fixes, appliedFixes, files } = row
  if (JSON.stringify(fixes) === JSON.stringify(appliedFixes)) return { files, fixes, appliedFixes, complaint: null }
  const delivered = row.sourceFiles ?? files
  if (fixes.length === 0) return { files: delivered, fixes, appliedFixes: [], complaint: null }
  const source = await openRow(context, { ...row, files: delivered })
  let derived: DerivedFile[]
  try {
    derived = await context.intakePool.run('fix', { source, fixes, materials: await openMaterials(context, fixes) })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    // What was fixed before stays fixed; only the new wish is dropped, and said so.
    return { files, fixes: appliedFixes, appliedFixes, complaint: `It could not be fixed: ${error.message}` }
  }
  const fixed = await putDerivedFiles(context, delivered, derived)
  return { files: fixed, fixes, appliedFixes: fixes, complaint: null }
}
