import { formatDistanceToNowStrict } from 'date-fns'
import { useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { Link, useNavigate } from 'react-router'
import type { BatchSummary } from '#shared/contracts/intake.contract'
import type { Session } from '#shared/contracts/session.contract'
import { formatBytes } from '#shared/units'
import { tellProblem } from '../../components/bulk-words'
import { Covers } from '../../components/Covers'
import { Button } from '../../components/controls/Button'
import { ChoiceField } from '../../components/controls/Choice'
import { TextField } from '../../components/controls/Field'
import { TextChoiceField } from '../../components/controls/TextChoice'
import { EmptyState, Skeleton, Trouble } from '../../components/Notice'
import { Page, PageHead } from '../../components/Page'
import { useCreateBatchMutation, useListBatchesQuery } from '../../state/api'
import { useAppDispatch } from '../../state/hooks'
import { plural } from '../../words/states'
import { FeedList } from './feeds/FeedList'
import { toDropped } from './upload/dropped-path'
import { startUpload } from './upload/running-uploads'

/** The goods-in bench: drop a delivery, see what is being worked on. */
export function IntakePlace({ session }: { session: Session }) {
  const { data: batches, error, refetch } = useListBatchesQuery()
  return (
    <Page>
      <div className="mx-auto max-w-[100rem]">
        <PageHead title="Intake" facts="What suppliers deliver, until it hangs in the library" />
      </div>
      <div className="mx-auto grid max-w-[100rem] grid-cols-[minmax(0,22rem)_minmax(0,1fr)] gap-8">
        <div>
          <DeliveryForm session={session} />
          <FeedList library={session.libraries[0]?.key ?? ''} mayEdit={session.person?.role === 'lead'} />
        </div>
        <section aria-labelledby="batches">
          <h2 id="batches" className="mb-2 text-section">
            Batches
          </h2>
          {error ? (
            <Trouble error={error} onRetry={refetch} />
          ) : !batches ? (
            <Skeleton className="h-64" />
          ) : batches.length === 0 ? (
            <EmptyState title="No delivery yet.">Drop one on the left; it becomes a batch here.</EmptyState>
          ) : (
            <ul className="border-t border-line">
              {batches.map(b => (
                <BatchLine key={b.id} batch={b} />
              ))}
            </ul>
          )}
        </section>
      </div>
    </Page>
  )
}

function BatchLine({ batch: b }: { batch: BatchSummary }) {
  const work =
    b.state === 'receiving'
      ? 'receiving files'
      : b.state === 'sorting'
        ? 'being sorted'
        : b.state === 'failed'
          ? 'broke off; try it again'
          : b.waiting > 0
            ? `${plural(b.waiting, 'item')} to decide`
            : `all ${b.accepted} accepted`
  return (
    <li className="border-b border-line">
      <Link
        to={`/intake/${b.id}`}
        className="grid grid-cols-[auto_minmax(0,1fr)_9rem_9rem] items-center gap-4 py-2 hover:bg-sheet"
      >
        <Covers urls={b.covers} />
        <span className="min-w-0">
          <span className="block truncate font-medium">{b.title}</span>
          <span className="block truncate text-xs text-quiet">
            {b.library}, by {b.person}, {formatDistanceToNowStrict(new Date(b.createdAt), { addSuffix: true })}
          </span>
        </span>
        <span className="text-xs text-quiet tabular-nums">
          {plural(b.files, 'file')}, {formatBytes(b.bytes)}
        </span>
        <span className="text-right">
          <span className={b.waiting > 0 || b.state !== 'open' ? 'font-medium' : 'text-quiet'}>{work}</span>
          {b.failed > 0 && <span className="block text-xs text-quiet">{plural(b.failed, 'file')} would not read</span>}
        </span>
      </Link>
    </li>
  )
}

function DeliveryForm({ session }: { session: Session }) {
  const [title, setTitle] = useState('')
  const [maker, setMaker] = useState('')
  const [ownLicence, setOwnLicence] = useState<string | null>(null)
  const [library, setLibrary] = useState(session.libraries[0]?.key ?? '')
  const [createBatch, { isLoading }] = useCreateBatchMutation()
  const dispatch = useAppDispatch()
  const navigate = useNavigate()
  const { data: batches = [] } = useListBatchesQuery()
  // Who came before comes under the same licence, unless somebody says otherwise.
  const licence = ownLicence ?? batches.find(b => b.maker !== '' && b.maker === maker.trim())?.licence ?? ''
  const take = async (files: File[]) => {
    if (files.length === 0) return
    const dropped = toDropped(files)
    const folder = dropped[0].path.split('/')
    const name =
      folder.length > 1 ? folder[0] : files.length === 1 ? files[0].name.replace(/\.[a-z0-9]+$/i, '') : `${files.length} files`
    const result = await createBatch({ library, title: title.trim() || name, maker, licence })
    if (!result.data) {
      tellProblem(result.error)
      return
    }
    startUpload(result.data.id, dropped, dispatch)
    navigate(`/intake/${result.data.id}`)
  }
  const { getRootProps, getInputProps, isDragActive, open } = useDropzone({
    onDropAccepted: take,
    noClick: true,
    disabled: isLoading,
  })
  const pickFolder = () => {
    const picker = document.createElement('input')
    picker.type = 'file'
    picker.webkitdirectory = true
    picker.multiple = true
    picker.onchange = () => take([...(picker.files ?? [])])
    picker.click()
  }
  return (
    <section aria-labelledby="delivery" className="flex flex-col gap-3 rounded-sm bg-sheet p-4">
      <h2 id="delivery" className="text-section">
        Take a delivery in
      </h2>
      <div
        {...getRootProps()}
        className={`flex h-52 flex-col items-center justify-center gap-3 rounded-sm border-2 border-dashed bg-mount px-6 text-center ${isDragActive ? 'border-ink' : 'border-edge'}`}
      >
        <input {...getInputProps({ 'aria-label': 'Files of the delivery' })} />
        <p className="text-base">{isDragActive ? 'Let go: it is taken from here' : 'Drop files, a folder or a zip here'}</p>
        <p className="flex gap-2">
          <Button variant="next" onClick={open} disabled={isLoading}>
            Choose files
          </Button>
          <Button onClick={pickFolder} disabled={isLoading}>
            Choose a folder
          </Button>
        </p>
        <p className="text-xs text-quiet">Textures, models, skies and light curves, as suppliers and games have them</p>
      </div>
      <ChoiceField
        label="Into"
        value={library}
        onChange={setLibrary}
        options={session.libraries.map(l => ({ value: l.key, text: l.title }))}
      />
      <TextField
        label="Title"
        value={title}
        onChange={e => setTitle(e.target.value)}
        placeholder="the folder's name, if left empty"
      />
      <TextChoiceField label="Maker or supplier" known={batches.map(b => b.maker)} value={maker} onChange={setMaker} />
      <TextChoiceField
        label="Licence"
        known={batches.map(b => b.licence)}
        value={licence}
        onChange={setOwnLicence}
        placeholder="for example: all projects"
      />
    </section>
  )
}
