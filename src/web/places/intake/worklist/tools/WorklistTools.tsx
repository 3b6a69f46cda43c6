import type { Batch, BatchItem } from '#shared/contracts/intake.contract'
import type { Category } from '#shared/contracts/items.contract'
import { findingName } from '#shared/finding-words'
import { Button } from '../../../../components/controls/Button'
import { CheckBox } from '../../../../components/controls/CheckBox'
import { Choice } from '../../../../components/controls/Choice'
import type { BatchChanges } from '../state/use-batch-changes'
import type { Order, RowFigures, RowFilter } from '../state/worklist-view'
import { BulkFacts } from './BulkFacts'
import { FilesMenu } from './FilesMenu'
import { FixMenu } from './FixMenu'
import { KindMenu } from './KindMenu'

interface View {
  filter: RowFilter
  setFilter: (filter: RowFilter) => void
  order: Order
  setOrder: (order: Order) => void
  isOrderOpen: boolean
  setOrderOpen: (isOpen: boolean) => void
}

interface Props {
  batch: Batch
  categories: readonly Category[]
  /** Rows as they are shown, all rows, and those marked. */
  items: readonly BatchItem[]
  all: readonly BatchItem[]
  chosen: readonly BatchItem[]
  toAccept: readonly BatchItem[]
  figures: RowFigures
  missing: number
  changes: BatchChanges
  view: View
  onMark: (ids: Iterable<number>) => void
  onAccept: () => void
}

const ORDER_OPTIONS = [
  { value: 'category', text: 'by category' },
  { value: 'doubt', text: 'most in doubt first' },
  { value: 'name', text: 'by name' },
  { value: 'folder', text: 'by their folders' },
  { value: 'lacking', text: 'by what they lack' },
] as const

/** What is shown of the rows, and what is done to all of them or to those marked. */
export function WorklistTools(props: Props) {
  const { batch, items, all, chosen, toAccept, figures, missing, changes, view, onMark, onAccept } = props
  const { measuring } = figures
  const open = items.filter(i => i.state !== 'accepted')
  const isMarked = new Set(chosen.map(i => i.id))
  const byPattern = (chosen.length > 0 ? chosen : all).filter(i => i.state !== 'accepted' && i.proposedName !== null)
  const toFix = chosen.length > 0 ? chosen : items
  return (
    <div className="flex shrink-0 flex-wrap items-center gap-x-3 gap-y-2 px-6 pb-3">
      <CheckBox
        label={`Mark all ${open.length}`}
        className="shrink-0 whitespace-nowrap"
        checked={open.length > 0 && open.every(i => isMarked.has(i.id))}
        isPartly={chosen.length > 0}
        disabled={open.length === 0}
        onChange={checked => onMark(checked ? open.map(i => i.id) : [])}
      />
      <Choice
        label="Rows shown"
        className="shrink-0"
        value={view.filter}
        onChange={view.setFilter}
        options={[
          { value: '', text: 'every row', count: all.length },
          { value: 'doubtful', text: 'what needs a look', count: figures.doubtful },
          { value: 'offStandard', text: 'off our standard', count: figures.offStandard },
          { value: 'fixed', text: 'what was fixed', count: figures.fixed },
          { value: 'known', text: 'what the library may have', count: figures.known },
          ...figures.kinds.map(k => ({ value: k.code, text: findingName(k.code), count: k.rows })),
        ]}
      />
      <Choice label="Order of rows" className="shrink-0" value={view.order} onChange={view.setOrder} options={ORDER_OPTIONS} />
      {batch.mayEdit && (
        <FixMenu
          items={toFix}
          onFix={codes =>
            changes.fix(
              toFix.filter(i => i.state === 'ready').map(i => i.id),
              codes,
            )
          }
        />
      )}
      {batch.mayEdit && batch.sourceFolders.length > 0 && (
        <Button aria-expanded={view.isOrderOpen} onClick={() => view.setOrderOpen(!view.isOrderOpen)}>
          Their order ({batch.sourceFolders.length})
        </Button>
      )}
      {batch.mayEdit && byPattern.length > 0 && (
        <Button onClick={() => changes.nameByPattern(byPattern)}>Name {byPattern.length} by the pattern</Button>
      )}
      {(measuring > 0 || missing > 0) && (
        <span role="status" className="text-quiet">
          {[missing > 0 ? `reading ${missing} more rows` : '', measuring > 0 ? `measuring ${measuring} more` : '']
            .filter(Boolean)
            .join(', ')}
        </span>
      )}
      {batch.mayEdit && chosen.length > 0 && <MarkedTools {...props} />}
      {batch.mayEdit ? (
        <Button variant="next" className="ml-auto" disabled={toAccept.length === 0 || changes.isAccepting} onClick={onAccept}>
          {chosen.length > 0 ? `Accept the ${toAccept.length} marked` : `Accept ${toAccept.length} ready`}
        </Button>
      ) : (
        <span className="ml-auto text-quiet">A library lead decides on this batch.</span>
      )}
    </div>
  )
}

function MarkedTools({ items, chosen, categories, changes, onMark }: Props) {
  const ids = chosen.map(i => i.id)
  const join = () => {
    // In the order they stand in: the first of them leads.
    const isChosen = new Set(ids)
    void changes.regroupRows({ action: 'merge', ids: items.filter(i => isChosen.has(i.id)).map(i => i.id) })
    onMark([])
  }
  const mayJoin = chosen.length > 1 && chosen.every(i => i.kind === chosen[0].kind && i.state !== 'accepted')
  return (
    <>
      {mayJoin && <Button onClick={join}>Make one of the {chosen.length}</Button>}
      <FilesMenu items={chosen} onRegroup={changes.regroupRows} />
      <KindMenu items={chosen} onRegroup={changes.regroupRows} />
      <BulkFacts items={chosen} categories={categories} onChange={patch => changes.change(ids, patch)} />
    </>
  )
}
