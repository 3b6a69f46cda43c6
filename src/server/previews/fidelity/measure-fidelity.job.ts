import { FileError } from '#core/findings/failure'
import { loadRigBook } from '../../house/rig-book'
import { findVersionSource } from '../../items/version-source'
import { publish } from '../../platform/notify'
import type { Jobs } from '../../platform/queue'
import { storeBytes } from '../../platform/storage/stored-files'
import type { WorkContext } from '../../platform/work-context'
import { storeFidelity } from './fidelity'

/** Measures what a material loses in each target, and keeps figures and pictures. A broken input is left to its own findings. */
export async function measureFidelityJob(context: WorkContext, { inputKey }: Jobs['measure-fidelity']): Promise<void> {
  const { db } = context
  const found = await findVersionSource(context, inputKey)
  if (found?.source.kind !== 'material') return
  const rig = (await loadRigBook(db)).rigFor(found.category)
  try {
    const { original, targets } = await context.previewPool.run('fidelity', { source: found.source, rig })
    const originalStored = await storeBytes(context, original, 'image/webp')
    const stored = await Promise.all(
      targets.map(t => (t.picture ? storeBytes(context, t.picture, 'image/webp') : originalStored)),
    )
    await db.transaction(async tx => {
      await storeFidelity(
        tx,
        inputKey,
        targets.map(({ target, lost, meanFlip, p95Flip, deltaEOfMeans }, k) => ({
          target,
          lost,
          meanFlip,
          p95Flip,
          deltaE: deltaEOfMeans,
          hash: stored[k].hash,
          originalHash: originalStored.hash,
        })),
      )
      if (found.itemId !== null) await publish(tx, { topic: 'item', libraryId: found.libraryId, itemId: found.itemId })
    })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
  }
}
