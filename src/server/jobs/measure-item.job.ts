import { and, eq } from 'drizzle-orm'
import { FileError, toFailure } from '#core/findings/failure'
import { batches, batchFiles, batchItems } from '../db/intake.table'
import { publish } from '../db/notify'
import { needsWidth } from '../services/intake'
import { requestPreview } from '../services/previews'
import { toSourceFiles } from '../services/stored-files'
import type { WorkContext } from './work-context'

/** Measures one row of a worklist: its facts and its findings. */
export async function measureItemJob(context: WorkContext, { batchItemId }: { batchItemId: number }): Promise<void> {
  const { db, storage } = context
  const [row] = await db.select().from(batchItems).where(eq(batchItems.id, batchItemId))
  if (row?.state !== 'measuring') return
  const [batch] = await db.select().from(batches).where(eq(batches.id, row.batchId))
  const tell = { topic: 'batch', libraryId: batch.libraryId, batchId: batch.id } as const
  const sources = await toSourceFiles(db, storage, row.files)
  const source = {
    kind: row.kind,
    name: row.name,
    widthMm: row.widthMm,
    constants: row.constants,
    files: row.files.map((f, i) => ({ ...f, file: sources[i] })),
  }
  try {
    const { facts, findings, failures } = await context.intakePool.run('inspect', { source, category: row.category })
    await db.transaction(async tx => {
      await tx
        .update(batchItems)
        .set({ facts, findings, state: 'ready', files: row.files.filter(f => !failures.some(x => x.path === f.path)) })
        .where(and(eq(batchItems.id, batchItemId), eq(batchItems.state, 'measuring')))
      for (const { path, code, message } of failures)
        await tx
          .update(batchFiles)
          .set({ outcome: 'failed', code, message })
          .where(and(eq(batchFiles.batchId, row.batchId), eq(batchFiles.path, path)))
      await publish(tx, tell)
    })
    if (!needsWidth(row))
      await requestPreview(db, context.queue, { inputKey: row.inputKey, category: row.category, quality: 'draft' }, 5)
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
