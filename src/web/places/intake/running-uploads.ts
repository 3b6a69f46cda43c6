import { api } from '../../app/api'
import type { AppDispatch } from '../../app/store'
import { type DroppedFile, type RunningUpload, sendFiles } from './upload-queue'
import { uploadEnded } from './uploads.slice'

/** Uploads outlive the screen they were started on; only leaving the page stops them. */
const running = new Map<number, RunningUpload>()

const warn = (event: BeforeUnloadEvent) => event.preventDefault()

/** Sends the files, then has the batch sorted, without anybody having to ask. */
export function startUpload(batchId: number, files: readonly DroppedFile[], dispatch: AppDispatch): void {
  window.addEventListener('beforeunload', warn)
  const upload = sendFiles(batchId, files, dispatch, async () => {
    running.delete(batchId)
    if (running.size === 0) window.removeEventListener('beforeunload', warn)
    await dispatch(api.endpoints.sortBatch.initiate(batchId))
    dispatch(uploadEnded(batchId))
  })
  running.set(batchId, upload)
}

export const runningUpload = (batchId: number): RunningUpload | undefined => running.get(batchId)
