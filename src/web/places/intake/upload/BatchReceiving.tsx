import type { Batch } from '#shared/contracts/intake.contract'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../../components/bulk-words'
import { Button } from '../../../components/controls/Button'
import { Progress } from '../../../components/Notice'
import { useSortBatchMutation } from '../../../state/api'
import { useAppDispatch } from '../../../state/hooks'
import type { UploadProgress } from '../../../state/uploads.slice'
import { plural } from '../../../words/states'
import { DropMore } from './DropMore'
import { runningUpload, sendAgain, sortArrived, startUpload } from './running-uploads'

/** How far the sending is, from this page. */
export function UploadLine({ batchId, upload }: { batchId: number; upload: UploadProgress }) {
  const dispatch = useAppDispatch()
  const paused = upload.state === 'paused'
  const stuck = upload.state === 'done' && upload.refused.length > 0
  return (
    <div className="mx-6 mb-3 rounded-sm bg-sheet p-4">
      <div className="mb-2 flex items-center gap-4">
        <span role="status">
          {stuck
            ? `${plural(upload.arrivedBefore + upload.files - upload.refused.length, 'file')} arrived, ${upload.refused.length} did not`
            : `${paused ? 'Paused at' : 'Sending'} ${upload.doneFiles} of ${plural(upload.files, 'file')}`}
        </span>
        <span className="figures text-xs text-quiet">
          {formatBytes(upload.sentBytes)} of {formatBytes(upload.bytes)}
          {upload.knownFiles > 0 && `, ${plural(upload.knownFiles, 'file')} here already`}
        </span>
        <div className="ml-auto flex gap-2">
          {stuck ? (
            <>
              <Button onClick={() => sortArrived(batchId, dispatch)}>Sort without them</Button>
              <Button variant="next" onClick={() => sendAgain(batchId, dispatch)}>
                Send them again
              </Button>
            </>
          ) : (
            <Button onClick={() => (paused ? runningUpload(batchId)?.resume() : runningUpload(batchId)?.pause())}>
              {paused ? 'Go on' : 'Pause'}
            </Button>
          )}
        </div>
      </div>
      <Progress share={upload.bytes > 0 ? upload.sentBytes / upload.bytes : 1} label="Upload" />
      {upload.refused.map(r => (
        <p key={r.path} role="alert" className="mt-2 text-xs">
          <span className="figures">{r.path}</span> {r.reason}
        </p>
      ))}
    </div>
  )
}

/** Files came in but nobody said that it is all: after a closed page, say. */
export function Receiving({ batch }: { batch: Batch }) {
  const dispatch = useAppDispatch()
  const [sortBatch, { isLoading }] = useSortBatchMutation()
  const sort = async () => {
    const result = await sortBatch({ batchId: batch.id })
    if (result.error) tellProblem(result.error)
  }
  if (batch.expectedFiles !== null)
    return (
      <div className="mx-6 rounded-sm bg-sheet p-4">
        <p role="status" className="mb-2">
          Fetching from the supplier: {batch.files} of {plural(batch.expectedFiles, 'file')}
        </p>
        <Progress share={batch.files / Math.max(1, batch.expectedFiles)} label="Fetching" />
        <p className="mt-2 text-xs text-quiet">
          It goes on when this page is closed; the files are sorted when all have arrived.
        </p>
      </div>
    )
  return (
    <div className="mx-6 flex flex-col gap-4">
      <p>
        {batch.files === 0 ? 'Nothing has arrived yet.' : `${plural(batch.files, 'file')} arrived, then the sending stopped.`}{' '}
        Drop the delivery again to send what is missing; what is here is not sent twice.
      </p>
      <DropMore onFiles={files => startUpload(batch.id, files, dispatch)} />
      <p>
        <Button onClick={sort} disabled={isLoading || batch.files === 0}>
          Go on with what is here
        </Button>
      </p>
    </div>
  )
}

/** It could not be fetched or sorted, however often it was tried. */
export function BrokeOff({ batch }: { batch: Batch }) {
  const [sortBatch, { isLoading }] = useSortBatchMutation()
  const again = async () => {
    const result = await sortBatch({ batchId: batch.id })
    if (result.error) tellProblem(result.error)
  }
  return (
    <div className="mx-6 flex items-center gap-4 rounded-sm bg-sheet p-4" role="alert">
      <p className="min-w-0 flex-1">
        {plural(batch.files, 'file')} of this delivery are here. {batch.message}
      </p>
      <Button variant="next" onClick={again} disabled={isLoading || batch.files === 0}>
        Try again
      </Button>
    </div>
  )
}
