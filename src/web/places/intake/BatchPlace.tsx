import { useVirtualizer } from '@tanstack/react-virtual'
import { useMemo, useRef, useState } from 'react'
import { Link, useLocation, useParams } from 'react-router'
import { toast } from 'sonner'
import type { FindingCode } from '#core/findings/finding'
import type { Batch, BatchItem, MapSourceFolder, Regroup } from '#shared/contracts/intake.contract'
import { findingName } from '#shared/finding-words'
import { formatBytes } from '#shared/units'
import { Button } from '../../components/Button'
import { tellBulk, tellProblem } from '../../components/bulk-words'
import { Choice } from '../../components/Choice'
import { Progress, Skeleton, Trouble } from '../../components/Notice'
import { useStableActions } from '../../components/use-stable-actions'
import {
  useAcceptRowsMutation,
  useChooseFixesMutation,
  useEditBatchItemsMutation,
  useGetBatchQuery,
  useListCategoriesQuery,
  useMapSourceFolderMutation,
  useRegroupMutation,
  useRenameBatchItemsMutation,
  useSortBatchMutation,
  useTakeBackRowsMutation,
  useUndoRegroupMutation,
} from '../../state/api'
import { useAppDispatch, useAppSelector } from '../../state/hooks'
import { rowsChanged } from '../../state/rows.slice'
import type { UploadProgress } from '../../state/uploads.slice'
import { plural } from '../../words/states'
import { BatchRow, type RowActions } from './BatchRow'
import { BulkFacts } from './BulkFacts'
import { DropMore } from './DropMore'
import { FilesMenu } from './FilesMenu'
import { FixMenu } from './FixMenu'
import { NotInItems } from './NotInItems'
import { REGROUP_WORDS } from './regroup-words'
import { ROW_GRID } from './row-grid'
import { runningUpload, sendAgain, sortArrived, startUpload } from './running-uploads'
import { SourceFolderPanel } from './SourceFolderPanel'
import { useRows } from './use-rows'
import { countRows, describeAccepted, type Order, type RowFilter, viewRows } from './worklist-view'

const ROW_HEIGHT = 89
const HEADING_HEIGHT = 30
const HEADINGS = ['', 'Preview', 'Name', 'Category', 'Real width', 'Measured', 'Findings', '']

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
      <div className="flex shrink-0 items-baseline gap-3 px-6 pt-4 pb-3">
        <Link to="/intake" className="text-quiet hover:underline">
          Intake
        </Link>
        <h1 className="text-lg font-medium">{batch.title}</h1>
        <span className="text-quiet">
          {batch.library}
          {batch.maker && `, ${batch.maker}`}
        </span>
        <span className="figures ml-auto text-xs text-quiet">
          {plural(batch.files, 'file')}, {formatBytes(batch.bytes)}
        </span>
      </div>
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

function UploadLine({ batchId, upload }: { batchId: number; upload: UploadProgress }) {
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
function Receiving({ batch }: { batch: Batch }) {
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
function BrokeOff({ batch }: { batch: Batch }) {
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

function Worklist({ batch }: { batch: Batch }) {
  const { data: categories = [] } = useListCategoriesQuery()
  const [edit] = useEditBatchItemsMutation()
  const [accept, { isLoading: isAccepting }] = useAcceptRowsMutation()
  const [marked, setMarked] = useState<ReadonlySet<number>>(new Set())
  // Kept here: a row that is scrolled or filtered away comes back as it was left.
  const [unfolded, setUnfolded] = useState<ReadonlySet<number>>(new Set())
  const [filter, setFilter] = useState<RowFilter>('')
  const [order, setOrder] = useState<Order>('category')
  const [isOrderOpen, setOrderOpen] = useState(false)
  const [choose] = useChooseFixesMutation()
  const [mapSourceFolder] = useMapSourceFolderMutation()
  const [regroup] = useRegroupMutation()
  const [renameRows] = useRenameBatchItemsMutation()
  const [undoRegroup] = useUndoRegroupMutation()
  const [takeBack] = useTakeBackRowsMutation()
  const anchor = useRef<number | null>(null)
  const location = useLocation()
  const dispatch = useAppDispatch()
  const { items: all, missing } = useRows(batch.id, batch.rowIds)
  const items = useMemo(() => viewRows(all, filter, order), [all, filter, order])
  const figures = useMemo(() => countRows(all), [all])
  const { kinds, ready, measuring } = figures
  // A delivery may hold thousands of rows; only those in sight exist, at whatever height they turn out to have.
  const scroller = useRef<HTMLDivElement>(null)
  const list = useRef<HTMLUListElement>(null)
  const virtual = useVirtualizer({
    count: items.length,
    getScrollElement: () => scroller.current,
    getItemKey: index => items[index].id,
    estimateSize: () => ROW_HEIGHT,
    scrollMargin: list.current?.offsetTop ?? HEADING_HEIGHT,
    overscan: 6,
  })
  const open = items.filter(i => i.state !== 'accepted')
  const chosen = useMemo(() => (marked.size === 0 ? [] : all.filter(i => marked.has(i.id))), [all, marked])
  const byPattern = (chosen.length > 0 ? chosen : all).filter(i => i.state !== 'accepted' && i.proposedName !== null)
  const toAccept = chosen.length > 0 ? chosen.filter(i => i.state !== 'accepted') : ready
  const mark = (id: number, range: boolean) => {
    const next = new Set(marked)
    const from = items.findIndex(i => i.id === anchor.current)
    const to = items.findIndex(i => i.id === id)
    if (range && from >= 0) for (const item of items.slice(Math.min(from, to), Math.max(from, to) + 1)) next.add(item.id)
    else if (!next.delete(id)) next.add(id)
    anchor.current = id
    setMarked(next)
  }
  const unfold = (id: number, isUnfolded: boolean) =>
    setUnfolded(old => new Set(isUnfolded ? [...old, id] : [...old].filter(k => k !== id)))
  const change = async (ids: number[], patch: Omit<Parameters<typeof edit>[0], 'batchId' | 'ids'>) => {
    const result = await edit({ batchId: batch.id, ids, ...patch })
    if (result.error) tellProblem(result.error)
    else dispatch(rowsChanged({ batchId: batch.id, ids }))
  }
  const fix = async (ids: number[], codes: FindingCode[], more: { subject?: string; takeBack?: boolean } = {}) => {
    const result = await choose({ batchId: batch.id, ids, codes, ...more })
    if (result.error) return tellProblem(result.error)
    if (!result.data || more.takeBack) return
    const { changed } = result.data
    tellBulk(n => `${plural(n, 'item')} in line to be fixed; the files as delivered stay.`, result.data, {
      label: 'Undo',
      onClick: () => choose({ batchId: batch.id, ids: changed, codes, ...more, takeBack: true }),
    })
  }
  const mapSourceFolders = async (list: MapSourceFolder[]) => {
    for (const wish of list) {
      const result = await mapSourceFolder({ batchId: batch.id, ...wish })
      if (result.error) return tellProblem(result.error)
    }
    toast(`${plural(list.length, 'source folder')} decided${batch.maker ? ` and remembered for ${batch.maker}` : ''}.`)
  }
  const regroupRows = async (wish: Regroup) => {
    const result = await regroup({ batchId: batch.id, ...wish })
    if (!result.data) return tellProblem(result.error)
    const { undo } = result.data
    toast(REGROUP_WORDS[wish.action], {
      action: {
        label: 'Undo',
        onClick: async () => {
          const back = await undoRegroup({ batchId: batch.id, undo })
          if (back.error) tellProblem(back.error)
        },
      },
    })
  }
  const nameByPattern = async (rows: readonly BatchItem[]) => {
    const names = rows.map(i => ({ id: i.id, name: i.proposedName ?? i.name }))
    const before = rows.map(i => ({ id: i.id, name: i.name }))
    const result = await renameRows({ batchId: batch.id, names })
    if (result.error) return tellProblem(result.error)
    toast(`${plural(rows.length, 'row')} named by the pattern.`, {
      action: { label: 'Undo', onClick: () => renameRows({ batchId: batch.id, names: before }) },
    })
  }
  const joinMarked = () => {
    // In the order they stand in: the first of them leads.
    void regroupRows({ action: 'merge', ids: items.filter(i => marked.has(i.id)).map(i => i.id) })
    setMarked(new Set())
  }
  const acceptThem = async (rows: readonly BatchItem[]) => {
    const result = await accept({ batchId: batch.id, ids: rows.map(i => i.id) })
    if (result.error) tellProblem(result.error)
    else if (result.data) {
      const { changed } = result.data
      const done = new Set(changed)
      tellBulk(() => describeAccepted(rows.filter(i => done.has(i.id))), result.data, {
        label: 'Undo',
        onClick: () => takeBack({ batchId: batch.id, ids: changed }),
      })
      setMarked(new Set())
    }
  }
  const actions = useStableActions<RowActions>({
    onExpand: unfold,
    onMark: mark,
    onChange: (id, patch) => change([id], patch),
    onRegroup: regroupRows,
    onAccept: item => acceptThem(marked.has(item.id) ? toAccept : [item]),
    onFix: (id, codes, more) => fix([id], codes, more),
  })
  return (
    <>
      <div className="flex shrink-0 flex-wrap items-center gap-x-4 gap-y-2 px-6 pb-2">
        <label className="flex shrink-0 items-center gap-2 whitespace-nowrap">
          <input
            type="checkbox"
            checked={open.length > 0 && open.every(i => marked.has(i.id))}
            onChange={e => setMarked(new Set(e.target.checked ? open.map(i => i.id) : []))}
            disabled={open.length === 0}
          />
          Mark all {open.length}
        </label>
        <Choice
          label="Rows shown"
          className="shrink-0"
          value={filter}
          onChange={setFilter}
          options={[
            { value: '', text: 'every row' },
            { value: 'doubtful', text: `what needs a look (${figures.doubtful})` },
            { value: 'offStandard', text: `off our standard (${figures.offStandard})` },
            { value: 'fixed', text: `what was fixed (${figures.fixed})` },
            { value: 'known', text: `what the library may have (${figures.known})` },
            ...kinds.map(k => ({ value: k.code, text: `${findingName(k.code)} (${k.rows})` })),
          ]}
        />
        <Choice
          label="Order of rows"
          className="shrink-0"
          value={order}
          onChange={setOrder}
          options={[
            { value: 'category', text: 'by category' },
            { value: 'doubt', text: 'most in doubt first' },
            { value: 'name', text: 'by name' },
          ]}
        />
        {batch.mayEdit && (
          <FixMenu
            items={chosen.length > 0 ? chosen : items}
            onFix={codes =>
              fix(
                (chosen.length > 0 ? chosen : items).filter(i => i.state === 'ready').map(i => i.id),
                codes,
              )
            }
          />
        )}
        {batch.mayEdit && batch.sourceFolders.length > 0 && (
          <Button aria-expanded={isOrderOpen} onClick={() => setOrderOpen(!isOrderOpen)}>
            Their order ({batch.sourceFolders.length})
          </Button>
        )}
        {batch.mayEdit && byPattern.length > 0 && (
          <Button onClick={() => nameByPattern(byPattern)}>Name {byPattern.length} by the pattern</Button>
        )}
        {(measuring > 0 || missing > 0) && (
          <span role="status" className="text-quiet">
            {[missing > 0 ? `reading ${missing} more rows` : '', measuring > 0 ? `measuring ${measuring} more` : '']
              .filter(Boolean)
              .join(', ')}
          </span>
        )}
        {batch.mayEdit && chosen.length > 1 && chosen.every(i => i.kind === chosen[0].kind && i.state !== 'accepted') && (
          <Button onClick={joinMarked}>Make one of the {chosen.length}</Button>
        )}
        {batch.mayEdit && chosen.length > 0 && <FilesMenu items={chosen} onRegroup={regroupRows} />}
        {batch.mayEdit && chosen.length > 0 && (
          <BulkFacts items={chosen} categories={categories} onChange={patch => change([...marked], patch)} />
        )}
        {batch.mayEdit ? (
          <Button
            variant="next"
            className="ml-auto"
            disabled={toAccept.length === 0 || isAccepting}
            onClick={() => acceptThem(toAccept)}
          >
            {chosen.length > 0 ? `Accept the ${toAccept.length} marked` : `Accept ${toAccept.length} ready`}
          </Button>
        ) : (
          <span className="ml-auto text-quiet">A library lead decides on this batch.</span>
        )}
      </div>
      {isOrderOpen && <SourceFolderPanel sourceFolders={batch.sourceFolders} categories={categories} onMap={mapSourceFolders} />}
      <div ref={scroller} className="min-h-0 flex-1 overflow-auto px-6 pb-10">
        <div className={`${ROW_GRID} sticky top-0 z-10 border-b border-line bg-surround py-1.5 text-xs text-quiet`}>
          {HEADINGS.map((h, i) => (
            <span key={i}>{h}</span>
          ))}
        </div>
        <ul ref={list} className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => (
            <BatchRow
              key={items[index].id}
              ref={virtual.measureElement}
              index={index}
              top={start - virtual.options.scrollMargin}
              batchId={batch.id}
              item={items[index]}
              categories={categories}
              mayEdit={batch.mayEdit}
              marked={marked.has(items[index].id)}
              expanded={unfolded.has(items[index].id)}
              actions={actions}
              location={location}
            />
          ))}
        </ul>
        {batch.rowIds.length === 0 && (
          <p className="py-6">No item was recognised in this delivery. What became of each file stands below.</p>
        )}
        <NotInItems batch={batch} items={all} marked={chosen.length === 1 ? chosen[0] : null} onRegroup={regroupRows} />
      </div>
    </>
  )
}
