import { eq } from 'drizzle-orm'
import { FileError } from '#core/findings/failure'
import type { Jobs } from '../../platform/queue'
import { storeBytes } from '../../platform/storage/stored-files'
import type { WorkContext } from '../../platform/work-context'
import { ownPictures } from '../../tables/own-picture.table'
import { settleOwnPicture } from './own-pictures'

/** Reduces a picture that somebody brought and says how good a preview it is; what does not decode is refused with a reason. */
export async function reducePictureJob({ db, storage, intakePool }: WorkContext, { id }: Jobs['reduce-picture']): Promise<void> {
  const [row] = await db.select().from(ownPictures).where(eq(ownPictures.id, id))
  if (row?.state !== 'reducing') return
  const diskPath = await storage.localPath(row.sourceHash)
  try {
    const { bytes, ...measured } = await intakePool.run('reduce', { diskPath, name: row.fileName })
    const stored = await storeBytes({ db, storage }, bytes, 'image/webp')
    await settleOwnPicture(db, id, { ...measured, hash: stored.hash })
  } catch (error) {
    if (!(error instanceof FileError)) throw error
    await settleOwnPicture(db, id, { reason: error.message })
  }
}
