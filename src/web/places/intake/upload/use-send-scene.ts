import { useState } from 'react'
import { tellProblem } from '../../../components/bulk-words'
import { useCreateBatchMutation } from '../../../state/api'
import { useAppDispatch, useAppSelector } from '../../../state/hooks'
import { uploadEnded } from '../../../state/uploads.slice'
import { toDropped } from './dropped-path'
import { sendFiles } from './upload-queue'

/**
 * Sends what was dropped as one scene into a batch of its own.
 * @param library by its key; nothing is sent as long as it is not known
 * @param then what is done with it when it is there
 * @returns with the share that is sent, null while nothing is
 */
export function useSendScene(library: string | undefined, then: (batchId: number) => Promise<void>) {
  const [createBatch] = useCreateBatchMutation()
  const dispatch = useAppDispatch()
  const [batchId, setBatchId] = useState<number | null>(null)
  const progress = useAppSelector(state => (batchId === null ? undefined : state.uploads.byBatch[batchId]))
  const take = async (files: File[]) => {
    if (files.length === 0 || !library) return
    const dropped = toDropped(files)
    const folder = dropped[0].path.split('/')
    const title = folder.length > 1 ? folder[0] : files[0].name
    const made = await createBatch({ library, title, purpose: 'scene' })
    if (!made.data) return tellProblem(made.error)
    const { id } = made.data
    setBatchId(id)
    sendFiles(id, dropped, dispatch, async refused => {
      dispatch(uploadEnded(id))
      setBatchId(null)
      if (refused.size === dropped.length)
        return tellProblem({
          data: { code: 'badRequest', message: 'The scene could not be sent; drop it again to go on where it stopped.' },
        })
      await then(id)
    })
  }
  return { take, sent: progress ? progress.sentBytes / Math.max(progress.bytes, 1) : null }
}
