import { tellProblem } from '../../../components/bulk-words'
import { api } from '../../../state/api'
import type { AppDispatch } from '../../../state/store'
import { uploadEnded } from '../../../state/uploads.slice'
import { type DroppedFile, type RunningUpload, sendFiles } from './upload-queue'

interface Sending {
  upload: RunningUpload
  /** What would not go up; filled when the rest is there. */
  refused: readonly DroppedFile[]
  /** Files that arrived, in this round and before. */
  arrived: number
}

/** Uploads outlive the screen they were started on; only leaving the page stops them. */
const running = new Map<number, Sending>()

const warn = (event: BeforeUnloadEvent) => event.preventDefault()

/** Sends the files, then has the batch sorted without anybody having to ask; where some were refused, a person says what then. */
export function startUpload(batchId: number, files: readonly DroppedFile[], dispatch: AppDispatch, arrivedBefore = 0): void {
  window.addEventListener('beforeunload', warn)
  const finish = (refusedPaths: ReadonlySet<string>) => {
    const refused = files.filter(f => refusedPaths.has(f.path))
    running.set(batchId, { upload, refused, arrived: arrivedBefore + files.length - refused.length })
    if (refused.length === 0) void sortArrived(batchId, dispatch)
  }
  const upload = sendFiles(batchId, files, dispatch, finish, arrivedBefore)
  running.set(batchId, { upload, refused: [], arrived: arrivedBefore })
}

export function sendAgain(batchId: number, dispatch: AppDispatch): void {
  const sending = running.get(batchId)
  if (sending) startUpload(batchId, sending.refused, dispatch, sending.arrived)
}

export async function sortArrived(batchId: number, dispatch: AppDispatch): Promise<void> {
  const arrived = running.get(batchId)?.arrived
  running.delete(batchId)
  if (running.size === 0) window.removeEventListener('beforeunload', warn)
  const { error } = await dispatch(api.endpoints.sortBatch.initiate({ batchId, expected: arrived }))
  if (error) tellProblem(error)
  dispatch(uploadEnded(batchId))
}

export const runningUpload = (batchId: number): RunningUpload | undefined => running.get(batchId)?.upload
