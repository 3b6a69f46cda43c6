import { type ColumnDef, getCoreRowModel, useReactTable } from '@tanstack/react-table'
import { useVirtualizer, type VirtualItem } from '@tanstack/react-virtual'
import { Download } from 'lucide-react'
import {
  type ClipboardEvent,
  type KeyboardEvent,
  memo,
  useDeferredValue,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from 'react'
import { useLocation, useNavigate } from 'react-router'
import { toast } from 'sonner'
import { readSort, SORTS, type Sort, type SortColumn } from '#core/find/query/find-order'
import type { Category } from '#shared/contracts/items.contract'
import type { SetCells, TableRow } from '#shared/contracts/table.contract'
import { tellBulk, tellProblem } from '../../../components/bulk-words'
import { useDots } from '../../../components/use-dots'
import { useHeld, useHurry } from '../../../components/use-hurry'
import { useStableActions } from '../../../components/use-stable-actions'
import { useGetTableQuery, useSetCellsMutation } from '../../../state/api'
import { useAppDispatch, useAppSelector } from '../../../state/hooks'
import { trayToggled } from '../../../state/tray.slice'
import { plural } from '../../../words/states'
import { neighboursOf } from '../neighbours'
import { PAGE, setPart, type WallAddress } from '../wall-address'
import { ColumnChoice } from './ColumnChoice'
import { parseCells, pasteCells, toCell } from './paste-cells'
import { type LineActions, TableLine } from './TableLine'
import { listColumns, type TableColumn } from './table-columns'
import { useShownColumns } from './use-shown-columns'
import { type TablePages, useTablePages } from './use-table-pages'

const LINE_HEIGHT = 34
const MOST_PASTED = 2000

interface Props {
  address: WallAddress
  categories: readonly Category[]
  mayEdit: boolean
  onChange: (patch: Partial<WallAddress>) => void
  /** The keyboard is wanted at the first cell, as soon as what these words find is there. */
  wanted: { words: string } | null
  onReached: () => void
}

interface Cell {
  row: number
  column: number
}

/** The wall as a table: a line an item, sorted by any column, written in where a person may say what stands there. */
export function TableForm({ address: given, categories, mayEdit, onChange, wanted, onReached }: Props) {
  // Columns put its lines in order, not groups.
  const address = useMemo(() => ({ ...given, group: '' as const }), [given])
  const scroller = useRef<HTMLDivElement>(null)
  const shown = useShownColumns()
  const first = useGetTableQuery({ ...setPart(address), offset: 0, limit: PAGE })
  const titles = useMemo(() => new Map(categories.map(c => [c.path, c.title])), [categories])
  const all = useMemo(() => listColumns(first.data?.known ?? [], path => titles.get(path) ?? path), [first.data?.known, titles])
  const byId = useMemo(() => new Map(all.map(c => [c.id, c])), [all])
  const columns = useMemo(() => shown.ids.flatMap(id => byId.get(id) ?? []), [shown.ids, byId])
  const facts = columns.flatMap(c => c.fact ?? []).join('|')
  const total = first.data?.total ?? 0
  const table = useReactTable<TableRow>({
    data: NO_ROWS,
    columns: useMemo<ColumnDef<TableRow>[]>(
      () => columns.map(c => ({ id: c.id, header: c.title, size: c.width, minSize: 60 })),
      [columns],
    ),
    state: { columnSizing: shown.widths },
    onColumnSizingChange: next => shown.setWidths(typeof next === 'function' ? next(shown.widths) : next),
    columnResizeMode: 'onChange',
    getCoreRowModel: getCoreRowModel(),
  })
  const heads = table.getFlatHeaders()
  const sizes = heads.map(h => h.getSize()).join()
  const widths = useMemo(() => sizes.split(',').map(Number), [sizes])
  const lineWidth = widths.reduce((sum, w) => sum + w, 0)
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => LINE_HEIGHT,
    overscan: 8,
    paddingEnd: 24,
    scrollPaddingStart: LINE_HEIGHT,
  })
  const [focus, setFocus] = useState<Cell>({ row: 0, column: 0 })
  const [isWriting, setWriting] = useState(false)
  const known = useRef(new Map<number, TableRow>())
  const addressKey = JSON.stringify(address)
  const items = virtual.getVirtualItems()
  const isHurried = useHurry(scroller)
  const seen = useHeld({ from: items[0]?.index ?? 0, to: items.at(-1)?.index ?? 0 }, isHurried)
  const pages = useTablePages(address, facts, seen.from, seen.to)
  // Lines are drawn when there is time for it: who goes down the table in a hurry is not held up by those that pass.
  const drawn = useDeferredValue(useMemo(() => ({ items, pages, isHurried }), [items, pages, isHurried]))
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view, other lines
  useLayoutEffect(() => {
    known.current = new Map()
    setFocus({ row: 0, column: 0 })
    setWriting(false)
    scroller.current?.scrollTo({ top: 0 })
  }, [addressKey])
  // After another view has begun anew.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view, other lines
  useLayoutEffect(() => {
    for (const [offset, { rows }] of pages.pages)
      rows.forEach((row, k) => {
        known.current.set(offset + k, row)
      })
  }, [pages, addressKey])
  const { currentData: isThere } = first
  useEffect(() => {
    if (!wanted || wanted.words !== address.words || !isThere) return
    scroller.current?.querySelector<HTMLElement>('[data-cell][tabindex="0"]')?.focus()
    onReached()
  }, [wanted, address.words, isThere, onReached])
  const dispatch = useAppDispatch()
  const inTray = useAppSelector(s => s.tray.chips)
  const trayIds = useMemo(() => new Set(inTray.map(c => c.id)), [inTray])
  const dots = useDots()
  const navigate = useNavigate()
  const location = useLocation()
  const [setCells] = useSetCellsMutation()

  const save = async (items: SetCells['items'], said: (count: number) => string) => {
    const result = await setCells({ items })
    if (!result.data) return tellProblem(result.error)
    const { before } = result.data
    tellBulk(said, result.data, before.length > 0 ? { label: 'Undo', onClick: () => setCells({ items: before }) } : undefined)
  }
  const moveTo = ({ row, column }: Cell) => {
    const next = {
      row: Math.min(Math.max(row, 0), Math.max(0, total - 1)),
      column: Math.min(Math.max(column, 0), columns.length - 1),
    }
    setFocus(next)
    virtual.scrollToIndex(next.row)
    requestAnimationFrame(() => scroller.current?.querySelector<HTMLElement>(`[data-cell="${next.row}:${next.column}"]`)?.focus())
  }
  const open = (row: number) => {
    const line = known.current.get(row)
    if (line)
      navigate(`/items/${line.chip.code}`, {
        state: { behind: location, neighbours: neighboursOf(at => known.current.get(at)?.chip.code, row) },
      })
  }
  const write = (cell: Cell): boolean => {
    if (!mayEdit || !columns[cell.column]?.writes || !known.current.has(cell.row)) return false
    setFocus(cell)
    setWriting(true)
    return true
  }
  const onWritten = (cell: Cell, text: string, then: 'down' | 'right' | 'left' | 'stay') => {
    setWriting(false)
    const line = known.current.get(cell.row)
    const column = columns[cell.column]
    const change = line && column ? toCell(line, column, text) : null
    if (change && column) void save([change], () => `${line?.chip.code}: ${column.title.toLowerCase()} changed.`)
    if (then === 'down') moveTo({ ...cell, row: cell.row + 1 })
    if (then === 'right') moveTo({ ...cell, column: cell.column + 1 })
    if (then === 'left') moveTo({ ...cell, column: cell.column - 1 })
  }
  const actions = useStableActions<LineActions>({
    focus: setFocus,
    open,
    write,
    written: onWritten,
    leave: () => {
      setWriting(false)
      moveTo(focus)
    },
    tray: chip => void dispatch(trayToggled(chip)),
  })
  const onKeyDown = (event: KeyboardEvent) => {
    const sight = Math.floor((scroller.current?.clientHeight ?? 0) / LINE_HEIGHT) - 2
    const moves: Record<string, Cell> = {
      ArrowDown: { ...focus, row: focus.row + 1 },
      ArrowUp: { ...focus, row: focus.row - 1 },
      ArrowRight: { ...focus, column: focus.column + 1 },
      ArrowLeft: { ...focus, column: focus.column - 1 },
      PageDown: { ...focus, row: focus.row + sight },
      PageUp: { ...focus, row: focus.row - sight },
      Home: { row: event.ctrlKey ? 0 : focus.row, column: 0 },
      End: { row: event.ctrlKey ? total - 1 : focus.row, column: columns.length - 1 },
    }
    const line = known.current.get(focus.row)
    const isPlain = !event.ctrlKey && !event.metaKey && !event.altKey
    if (moves[event.key]) moveTo(moves[event.key])
    else if (event.key === 'Enter' && isPlain) {
      if (!write(focus)) open(focus.row)
    } else if (event.key === ' ' && line) dispatch(trayToggled(line.chip))
    else if (/^[1-6]$/.test(event.key) && isPlain && line) void dots.toggle([line.chip], Number(event.key))
    else return
    event.preventDefault()
  }
  const onPaste = (event: ClipboardEvent) => {
    if (!mayEdit || isWriting) return
    event.preventDefault()
    const cells = parseCells(event.clipboardData.getData('text/plain'))
    if (cells.length > MOST_PASTED) {
      toast.warning(`Up to ${MOST_PASTED} lines are pasted at once; this has ${cells.length}. Nothing was changed.`)
      return
    }
    const below: TableRow[] = []
    for (let row = focus.row; known.current.has(row) && below.length < cells.length; row++) below.push(known.current.get(row)!)
    const { items, unwritten, beyond } = pasteCells(cells, below, columns.slice(focus.column))
    if (items.length > 0) void save(items, count => `${plural(count, 'line')} changed by what was pasted.`)
    const notes = [
      ...(items.length === 0 ? ['Nothing was changed.'] : []),
      ...(unwritten.length > 0 ? [`${unwritten.join(', ')} cannot be written here and stayed.`] : []),
      ...(beyond > 0
        ? [`${plural(beyond, 'cell')} fell outside of the table; scroll so far that its lines are read, and paste again.`]
        : []),
    ]
    if (notes.length > 0) toast.warning(notes.join(' '))
  }
  const onCopy = (event: ClipboardEvent) => {
    const line = known.current.get(focus.row)
    const column = columns[focus.column]
    if (isWriting || !line || !column || document.getSelection()?.toString()) return
    event.preventDefault()
    event.clipboardData.setData('text/plain', column.read(line))
  }
  const sort = SORTS.includes(address.order as Sort) ? readSort(address.order as Sort) : null
  const exportUrl = `/api/items/table.csv?${new URLSearchParams({ ...(setPart(address) as Record<string, string>), facts })}`

  return (
    <div className="flex h-full flex-col px-6">
      <div className="flex h-8 shrink-0 items-center justify-end gap-1">
        {mayEdit && (
          <p className="mr-auto text-xs text-quiet">Enter writes in a cell; paste lays a spreadsheet's cells on from there.</p>
        )}
        <a href={exportUrl} download className="inline-flex h-8 items-center gap-1.5 rounded-sm px-2 hover:bg-mount">
          <Download aria-hidden className="size-3.5" />
          As CSV
        </a>
        <ColumnChoice all={all} shown={columns.map(c => c.id)} onChange={shown.setIds} onReset={shown.reset} />
      </div>
      {/* biome-ignore lint/a11y/useSemanticElements: its lines are drawn only while they are in sight, which a table element cannot */}
      <div
        ref={scroller}
        role="grid"
        aria-label="Items"
        aria-rowcount={total + 1}
        tabIndex={-1}
        className="min-h-0 flex-1 overflow-auto border-t border-line bg-sheet"
        onKeyDown={onKeyDown}
        onPaste={onPaste}
        onCopy={onCopy}
      >
        {/* biome-ignore lint/a11y/useSemanticElements: of the grid above */}
        <div
          role="row"
          tabIndex={-1}
          className="sticky top-0 z-10 flex border-b border-edge bg-surround"
          style={{ width: lineWidth, height: LINE_HEIGHT }}
        >
          {heads.map((head, k) => {
            const column = columns[k]
            const isSorted = sort !== null && column?.sort === sort.column
            return (
              // biome-ignore lint/a11y/useSemanticElements: of the grid above
              <div
                key={head.id}
                role="columnheader"
                tabIndex={-1}
                aria-sort={isSorted ? (sort.isDown ? 'descending' : 'ascending') : 'none'}
                className="relative flex shrink-0 items-center"
                style={{ width: widths[k] }}
              >
                <button
                  type="button"
                  tabIndex={-1}
                  disabled={!column?.sort}
                  onClick={() => column?.sort && onChange({ order: nextOrder(address.order, column.sort) })}
                  className={`flex h-full min-w-0 flex-1 items-center gap-1 px-2 text-xs text-quiet enabled:hover:text-ink ${column?.isFigure ? 'justify-end' : ''} ${isSorted ? 'font-medium text-ink' : ''}`}
                  title={column?.sort ? `By ${column.title.toLowerCase()}` : 'Items cannot be ordered by it'}
                >
                  <span className="truncate">{column?.title}</span>
                  {isSorted && <span aria-hidden>{sort.isDown ? '↓' : '↑'}</span>}
                </button>
                <span
                  aria-hidden
                  onMouseDown={head.getResizeHandler()}
                  onTouchStart={head.getResizeHandler()}
                  className="absolute top-1.5 right-0 bottom-1.5 w-1.5 cursor-col-resize border-r border-line hover:border-ink"
                />
              </div>
            )
          })}
        </div>
        <div className="relative" style={{ height: virtual.getTotalSize(), width: lineWidth }}>
          <TableLines
            {...drawn}
            columns={columns}
            widths={widths}
            focus={focus}
            isWriting={isWriting}
            trayIds={trayIds}
            meaningOf={dots.meaningOf}
            actions={actions}
          />
        </div>
      </div>
    </div>
  )
}

interface LinesProps {
  items: readonly VirtualItem[]
  pages: TablePages
  /** Whether they pass too fast to be looked at. */
  isHurried: boolean
  columns: readonly TableColumn[]
  widths: readonly number[]
  focus: Cell
  isWriting: boolean
  trayIds: ReadonlySet<number>
  meaningOf: (color: number) => string
  actions: LineActions
}

/** Drawn again only for what it shows: a scroll hands it nothing new until there is time. */
const TableLines = memo(function TableLines({
  items,
  pages,
  isHurried,
  columns,
  widths,
  focus,
  isWriting,
  trayIds,
  meaningOf,
  actions,
}: LinesProps) {
  if (isHurried)
    return items.map(({ key, start }) => (
      <div key={key} aria-hidden className="absolute w-full border-b border-line" style={{ top: start, height: LINE_HEIGHT }} />
    ))
  return items.map(({ key, index, start }) => {
    const row = pages.rowAt(index)
    return (
      <TableLine
        key={key}
        row={row}
        index={index}
        top={start}
        height={LINE_HEIGHT}
        columns={columns}
        widths={widths}
        focusedColumn={focus.row === index ? focus.column : null}
        isWriting={isWriting && focus.row === index}
        inTray={row !== undefined && trayIds.has(row.chip.id)}
        meaningOf={meaningOf}
        actions={actions}
      />
    )
  })
})

const NO_ROWS: TableRow[] = []

/** Up, then down, then the order that there is without one. */
const nextOrder = (order: WallAddress['order'], column: SortColumn): WallAddress['order'] =>
  order === column ? `-${column}` : order === `-${column}` ? 'best' : column
