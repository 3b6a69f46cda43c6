import { useVirtualizer } from '@tanstack/react-virtual'
import { useDeferredValue, useMemo, useRef, useState } from 'react'
import { useLocation } from 'react-router'
import type { Batch, BatchItem } from '#shared/contracts/intake.contract'
import { useStableActions } from '../../../components/use-stable-actions'
import { useListCategoriesQuery } from '../../../state/api'
import { BatchRow } from './row/BatchRow'
import { GroupRow } from './row/GroupRow'
import { ROW_GRID } from './row/row-grid'
import { useBatchChanges } from './state/use-batch-changes'
import { useMarks } from './state/use-marks'
import { useRows } from './state/use-rows'
import { type RowActions, WorklistProvider } from './state/worklist-context'
import { countRows, groupRows, type Order, type RowFilter, type RowGroup, viewRows } from './state/worklist-view'
import { NotInItems } from './tools/NotInItems'
import { SourceFolderPanel } from './tools/SourceFolderPanel'
import { WorklistTools } from './tools/WorklistTools'

const ROW_HEIGHT = 89
const HEADING_HEIGHT = 30
const GROUP_HEIGHT = 45
const HEADINGS = ['', 'Preview', 'Name', 'Category', 'Real width', 'Measured', 'Findings', '']

type Entry = RowGroup | BatchItem
const isGroup = (entry: Entry): entry is RowGroup => 'items' in entry
const keyOf = (entry: Entry): string | number => (isGroup(entry) ? entry.title : entry.id)

/** What a delivery was sorted into, row by row, until each is in the library or set aside. */
export function Worklist({ batch }: { batch: Batch }) {
  const { data: categories = [] } = useListCategoriesQuery()
  // Kept here: a row that is scrolled or filtered away comes back as it was left.
  const [unfolded, setUnfolded] = useState<ReadonlySet<number>>(new Set())
  const [filter, setFilter] = useState<RowFilter>('')
  const [order, setOrder] = useState<Order>('category')
  const [isOrderOpen, setOrderOpen] = useState(false)
  const location = useLocation()
  const { items: all, missing } = useRows(batch.id, batch.rowIds)
  const items = useMemo(() => viewRows(all, filter, order), [all, filter, order])
  const groups = useMemo(() => groupRows(items, order), [items, order])
  // Counting thousands waits until what was typed is on the screen.
  const counted = useDeferredValue(all)
  const figures = useMemo(() => countRows(counted), [counted])
  const changes = useBatchChanges(batch)
  const { marked, setMarked, mark } = useMarks(() => (groups?.flatMap(g => g.items) ?? items).map(i => i.id))
  const chosen = useMemo(() => (marked.size === 0 ? [] : all.filter(i => marked.has(i.id))), [all, marked])
  const toAccept = chosen.length > 0 ? chosen.filter(i => i.state !== 'accepted') : figures.ready
  const accept = async (rows: typeof items) => {
    if (await changes.acceptThem(rows)) setMarked([])
  }
  const actions = useStableActions<RowActions>({
    onExpand: (id, isUnfolded) => setUnfolded(old => new Set(isUnfolded ? [...old, id] : [...old].filter(other => other !== id))),
    onMark: mark,
    onChange: (id, patch) => changes.change([id], patch),
    onRegroup: changes.regroupRows,
    onAccept: item => accept(marked.has(item.id) ? toAccept : [item]),
    onFix: (id, codes, more) => changes.fix([id], codes, more),
  })
  const shared = useMemo(
    () => ({ batchId: batch.id, categories, mayEdit: batch.mayEdit, actions, location }),
    [batch.id, batch.mayEdit, categories, actions, location],
  )
  // A delivery may hold thousands of rows; only those in sight exist, at whatever height they turn out to have.
  const scroller = useRef<HTMLDivElement>(null)
  const list = useRef<HTMLUListElement>(null)
  const entries = useMemo((): Entry[] => groups?.flatMap(group => [group, ...group.items]) ?? [...items], [groups, items])
  const virtual = useVirtualizer({
    count: entries.length,
    getScrollElement: () => scroller.current,
    getItemKey: index => keyOf(entries[index]),
    estimateSize: index => (isGroup(entries[index]) ? GROUP_HEIGHT : ROW_HEIGHT),
    scrollMargin: list.current?.offsetTop ?? HEADING_HEIGHT,
    overscan: 6,
  })
  return (
    <WorklistProvider value={shared}>
      <WorklistTools
        batch={batch}
        categories={categories}
        items={items}
        all={all}
        chosen={chosen}
        toAccept={toAccept}
        figures={figures}
        missing={missing}
        changes={changes}
        view={{ filter, setFilter, order, setOrder, isOrderOpen, setOrderOpen }}
        onMark={setMarked}
        onAccept={() => accept(toAccept)}
      />
      {isOrderOpen && (
        <SourceFolderPanel sourceFolders={batch.sourceFolders} categories={categories} onMap={changes.mapSourceFolders} />
      )}
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls must be reachable by keyboard (WCAG 2.1.1) */}
      <div ref={scroller} tabIndex={0} className="min-h-0 flex-1 overflow-auto px-6 pb-10 focus-visible:outline-none">
        <div className={`${ROW_GRID} sticky top-0 z-10 border-b border-edge bg-surround py-1.5 text-xs text-quiet`}>
          {HEADINGS.map((h, i) => (
            <span key={i}>{h}</span>
          ))}
        </div>
        <ul ref={list} className="relative" style={{ height: virtual.getTotalSize() }}>
          {virtual.getVirtualItems().map(({ index, start }) => {
            const entry = entries[index]
            const place = { ref: virtual.measureElement, index, top: start - virtual.options.scrollMargin }
            return isGroup(entry) ? (
              <GroupRow key={entry.title} {...place} group={entry} marked={marked} onMark={setMarked} />
            ) : (
              <BatchRow key={entry.id} {...place} item={entry} marked={marked.has(entry.id)} expanded={unfolded.has(entry.id)} />
            )
          })}
        </ul>
        {batch.rowIds.length === 0 && (
          <p className="py-6">No item was recognised in this delivery. What became of each file stands below.</p>
        )}
        <NotInItems batch={batch} items={all} marked={chosen.length === 1 ? chosen[0] : null} onRegroup={changes.regroupRows} />
      </div>
    </WorklistProvider>
  )
}
