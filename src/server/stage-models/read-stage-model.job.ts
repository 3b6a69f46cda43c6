import { eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import { openSceneFiles } from '../intake/scene-files'
import type { Jobs } from '../platform/queue'
import { storeBytes } from '../platform/storage/stored-files'
import type { WorkContext } from '../platform/work-context'
import { stageModels } from '../tables/stage-model.table'
import { tellStageModel } from './stage-models'

/** Makes the stage of a model that was sent. Broken off, it is begun again. */
export async function readStageModelJob(context: WorkContext, { id }: Jobs['read-stage-model']): Promise<void> {
  const { db } = context
  const isThis = eq(stageModels.id, id)
  const [row] = await db.update(stageModels).set({ state: 'reading' }).where(isThis).returning()
  if (!row) return
  await tellStageModel(db, row)
  try {
    const files = await openSceneFiles(context, row.batchId)
    const { bytes, unit, ...facts } = await context.exportPool.run('makeStageModel', { files, unit: row.unit, up: row.up })
    const { hash, size } = await storeBytes(context, bytes, 'model/gltf-binary')
    await db
      .update(stageModels)
      .set({ state: 'ready', message: null, hash, unit, facts: { ...facts, size } })
      .where(isThis)
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await db.update(stageModels).set({ state: 'failed', message: error.message }).where(isThis)
  }
  await tellStageModel(db, row)
}
