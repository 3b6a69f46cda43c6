import { FileError } from '#core/findings/failure'
import { hasOutside } from '#core/standard/categories'
import { loadRigBook } from '../../house/rig-book'
import { findVersionSource } from '../../items/version-source'
import { publish } from '../../platform/notify'
import type { Jobs } from '../../platform/queue'
import { storeBytes } from '../../platform/storage/stored-files'
import type { WorkContext } from '../../platform/work-context'
import { storeTurntable } from './turntables'

/** Renders one full turn of an item as a short loop. A broken input is left to its own findings. */
export async function renderTurntableJob(context: WorkContext, { inputKey }: Jobs['render-turntable']): Promise<void> {
  const { db } = context
  const found = await findVersionSource(context, inputKey)
  if (!found || !hasOutside(found.source.kind)) return
  const rig = (await loadRigBook(db)).rigFor(found.category)
  try {
    const bytes = await context.previewPool.run('turntable', { source: found.source, rig })
    const stored = await storeBytes(context, bytes, 'image/webp')
    await db.transaction(async tx => {
      await storeTurntable(tx, { inputKey, rig: rig.name, revision: rig.revision, hash: stored.hash })
      if (found.itemId !== null) await publish(tx, { topic: 'item', libraryId: found.libraryId, itemId: found.itemId })
    })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
  }
}
