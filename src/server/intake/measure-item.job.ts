import { and, eq, inArray, sql } from 'drizzle-orm'
import { FileError, toFailure } from '#core/findings/failure'
import type { DerivedFile } from '#files/fixes/apply-fixes'
import type { ItemSource } from '#files/items/load-item'
import { rulesFor } from '../house/load-rules'
import { putDerivedFiles, seeFindings } from '../items/derived-files'
import { computeInputKey } from '../items/input-key'
import { openMaterials, openSource } from '../items/version-source'
import type { Connection } from '../platform/database'
import { publish } from '../platform/notify'
import type { WorkContext } from '../platform/work-context'
import { requestPreview } from '../previews/previews'
import { batches, batchFiles, batchItems } from '../tables/intake.table'
import { items, versionFiles, versions } from '../tables/library.table'
import { findConflict, inheritWidth, rememberFingerprint } from './conflicts'
import { needsWidth } from './rows'

type Row = typeof batchItems.$inferSelect

/** Measures one row of a worklist, its fixes applied first: its files, its facts and its findings. */
export async function measureItemJob(context: WorkContext, { batchItemId }: { batchItemId: number }): Promise<void> {
  const { db } = context
  const [row] = await db.select().from(batchItems).where(eq(batchItems.id, batchItemId))
  if (row?.state !== 'measuring') return
  const [batch] = await db.select().from(batches).where(eq(batches.id, row.batchId))
  const tell = { topic: 'batch', libraryId: batch.libraryId, batchId: batch.id } as const
  try {
    const assembled = await assembleModels(context, row, batch.libraryId)
    const { complaint, ...mended } = await applyChosenFixes(context, assembled)
    const source = await openRow(context, { ...row, ...mended })
    const inspection = await context.intakePool.run('inspect', {
      source,
      category: row.category,
      rules: await rulesFor(db, row.category),
    })
    const { facts, failures, fingerprint } = inspection
    const seen = await seeFindings(context, inspection)
    const main = mended.files.find(f => f.path === fingerprint?.path)
    if (main && fingerprint) await rememberFingerprint(db, main.hash, fingerprint)
    // What somebody put beside a filed row stays the next version of that, whatever it looks like.
    const found = await findConflict(db, batch.libraryId, { ...row, ...mended }, fingerprint)
    const conflict = row.decision === 'newVersion' && row.conflict ? row.conflict : found
    const widthMm = row.widthMm ?? (await inheritWidth(db, conflict))
    const known = widthMm === null ? seen : seen.filter(f => f.code !== 'realWorldSizeMissing')
    const inputKey = computeInputKey({ ...row, ...mended, widthMm })
    await db.transaction(async tx => {
      await tx
        .update(batchItems)
        .set({
          ...mended,
          message: complaint,
          facts,
          findings: known,
          widthMm,
          inputKey,
          conflict,
          state: 'ready',
          files: mended.files.filter(f => !failures.some(x => x.path === f.path)),
        })
        .where(and(eq(batchItems.id, batchItemId), eq(batchItems.state, 'measuring')))
      for (const { path, code, message } of failures)
        await tx
          .update(batchFiles)
          .set({ outcome: 'failed', code, message })
          .where(and(eq(batchFiles.batchId, row.batchId), eq(batchFiles.path, path)))
      await publish(tx, tell)
    })
    if (!needsWidth({ ...row, widthMm }))
      await requestPreview(db, context.queue, { inputKey, category: row.category, quality: 'draft' }, 5)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    const { code, message } = toFailure(error)
    await db.transaction(async tx => {
      await tx.update(batchItems).set({ state: 'failed', message }).where(eq(batchItems.id, batchItemId))
      for (const file of row.files)
        await tx
          .update(batchFiles)
          .set({ outcome: 'failed', code, message })
          .where(and(eq(batchFiles.batchId, row.batchId), eq(batchFiles.path, file.path)))
      await publish(tx, tell)
    })
  }
}

/** Of a paint the specified colour goes along, for comparing with what is rendered. */
async function openRow(context: WorkContext, row: Row): Promise<ItemSource> {
  const { specifiedColor } = row.givenFacts
  const source = await openSource(context, row, row.files)
  return typeof specifiedColor === 'string' ? { ...source, specifiedColor } : source
}

/**
 * A model that came in several files becomes one, under the same name; what it was made of stays with the item. Written down at once, so
 * that it is what the fixes begin with, and done once.
 */
async function assembleModels(context: WorkContext, row: Row, libraryId: number): Promise<Row> {
  const { kind } = row
  let { files } = row
  if (kind !== 'model' || row.sourceFiles || files.every(f => !isModelRole(f.role) || /\.glb$/i.test(f.path))) return row
  const first = await context.intakePool.run('assemble', { source: await openRow(context, row) })
  let made = first.files
  const lent = await findInLibrary(context.db, libraryId, first.missing)
  if (lent.length > 0) {
    files = [...files, ...lent]
    made = (await context.intakePool.run('assemble', { source: await openRow(context, { ...row, files }) })).files
  }
  if (made.length === 0) return row
  const originals = files
    .filter(f => made.some(m => m.from === f.path) && !/\.glb$/i.test(f.path))
    .map(f => ({ ...f, role: 'modelPart' }))
  const next = [...(await putDerivedFiles(context, files, made)), ...originals]
  await context.db.update(batchItems).set({ files: next }).where(eq(batchItems.id, row.id))
  return { ...row, files: next }
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
    .where(and(eq(items.libraryId, libraryId), inArray(name, names)))
    .orderBy(versions.id)
  const last = [...new Map(found.map(f => [f.name, f])).values()]
  return last.map(({ path, hash }) => ({ path, hash, role: 'modelPart', byContentOnly: false, handednessHint: null }))
}

const isModelRole = (role: string): boolean => role === 'model' || role === 'lod'

interface Mended extends Pick<Row, 'files' | 'fixes' | 'appliedFixes'> {
  /** Why nothing came of a fix. */
  complaint: string | null
}

/** The files that the chosen fixes make of those delivered. Always from the delivered ones: a fix taken back leaves no trace. */
async function applyChosenFixes(context: WorkContext, row: Row): Promise<Mended> {
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
    // What was mended before stays mended; only the new wish is dropped, and said so.
    return { files, fixes: appliedFixes, appliedFixes, complaint: `It could not be mended: ${error.message}` }
  }
  const mended = await putDerivedFiles(context, delivered, derived)
  return { files: mended, fixes, appliedFixes: fixes, complaint: null }
}
