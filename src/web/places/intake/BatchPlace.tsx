import { useParams } from 'react-router'
import { formatBytes } from '#shared/units'
import { Skeleton, Trouble } from '../../components/Notice'
import { PageHead } from '../../components/Page'
import { useGetBatchQuery } from '../../state/api'
import { useAppSelector } from '../../state/hooks'
import { plural } from '../../words/states'
import { BrokeOff, Receiving, UploadLine } from './upload/BatchReceiving'
import { Worklist } from './worklist/Worklist'

/** One delivery as a worklist. */
export function BatchPlace() {
  const id = Number(useParams().id)
  const { data: batch, error, refetch } = useGetBatchQuery({ batchId: id }, { skip: !Number.isInteger(id) })
  const upload = useAppSelector(s => s.uploads.byBatch[id])
  if (error) return <Trouble error={error} onRetry={refetch} />
  if (!batch)
    return (
      <div className="px-6 py-5">
        <Skeleton className="h-96" />
      </div>
    )
  return (
    <div className="flex h-full flex-col">
      <PageHead
        className="px-6 pt-4 pb-3"
        from={{ to: '/intake', text: 'Intake' }}
        title={batch.title}
        facts={[batch.library, batch.maker, `${plural(batch.files, 'file')}, ${formatBytes(batch.bytes)}`]
          .filter(Boolean)
          .join(' · ')}
      />
      {upload && <UploadLine batchId={id} upload={upload} />}
      {batch.state === 'receiving' && !upload && <Receiving batch={batch} />}
      {batch.state === 'sorting' && (
        <p role="status" className="px-6 py-3 text-quiet">
          Sorting the files into items…
        </p>
      )}
      {batch.state === 'failed' && <BrokeOff batch={batch} />}
      {batch.state === 'open' && <Worklist batch={batch} />}
    </div>
  )
}
