import { and, asc, eq, isNotNull } from 'drizzle-orm'
import type { SourceFile } from '#files/reading/source-file'
import { type Actor, mayRead } from '../platform/access'
import type { Context } from '../platform/context'
import type { Connection } from '../platform/database'
import { notFound, ProblemError } from '../platform/problem'
import { toSourceFiles } from '../platform/storage/stored-files'
import { batches, batchFiles } from '../tables/intake.table'
import type { BatchRow } from './batches'

/**
 * The batch that a scene came as, which takes no more from now on.
 * @throws ProblemError for one that is no scene or not the asker's to see, or that nothing has arrived of
 */
export async function closeSceneBatch(tx: Connection, actor: Actor, batchId: number): Promise<BatchRow> {
  const [batch] = await tx
    .select()
    .from(batches)
    .where(and(eq(batches.id, batchId), mayRead(actor, batches.libraryId)))
    .for('update')
  if (batch?.purpose !== 'scene') throw notFound('This scene')
  const [file] = await tx.select({ id: batchFiles.id }).from(batchFiles).where(eq(batchFiles.batchId, batchId)).limit(1)
  if (!file) throw new ProblemError('badRequest', 'No file of the scene has arrived yet; send it first.')
  await tx.update(batches).set({ state: 'open' }).where(eq(batches.id, batchId))
  return batch
}

/** The files of a scene as they were sent. */
export async function openSceneFiles({ db, storage }: Pick<Context, 'db' | 'storage'>, batchId: number): Promise<SourceFile[]> {
  const rows = await db
    .select()
    .from(batchFiles)
    .where(and(eq(batchFiles.batchId, batchId), isNotNull(batchFiles.hash)))
    .orderBy(asc(batchFiles.path))
  return toSourceFiles(
    db,
    storage,
    rows.map(({ path, hash }) => ({ path, hash: hash! })),
  )
}
