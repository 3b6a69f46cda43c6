import { Check, Plus } from 'lucide-react'
import { memo } from 'react'
import type { Chip } from '#shared/contracts/chip.contract'
import type { TableRow } from '#shared/contracts/table.contract'
import { smallestOf } from '#shared/picture-widths'
import { Dots } from '../../../components/Dots'
import { CellEditor } from './CellEditor'
import type { TableColumn } from './table-columns'

type Cell = { row: number; column: number }

/** What is done with a line and its cells; the same functions while the table is there, so that no line is drawn again because of them. */
export interface LineActions {
  focus: (cell: Cell) => void
  open: (row: number) => void
  write: (cell: Cell) => boolean
  written: (cell: Cell, text: string, then: 'down' | 'right' | 'left' | 'stay') => void
  leave: () => void
  tray: (chip: Chip) => void
}

interface Props {
  /** Undefined while it is on its way. */
  row: TableRow | undefined
  index: number
  top: number
  height: number
  columns: readonly TableColumn[]
  widths: readonly number[]
  /** Null where the focus is in another line. */
  focusedColumn: number | null
  isWriting: boolean
  inTray: boolean
  meaningOf: (color: number) => string
  actions: LineActions
}

/** One item as a line of the table. */
export const TableLine = memo(function TableLine({
  row,
  index,
  top,
  height,
  columns,
  widths,
  focusedColumn,
  isWriting,
  inTray,
  meaningOf,
  actions,
}: Props) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: of a grid whose lines come and go
    <div
      role="row"
      tabIndex={-1}
      aria-rowindex={index + 2}
      className={`absolute left-0 flex border-b border-line/70 ${inTray ? 'bg-mount' : ''}`}
      style={{ transform: `translateY(${top}px)`, height }}
    >
      {columns.map((column, k) => {
        const isFocused = focusedColumn === k
        const text = row ? column.read(row) : ''
        const cell = { row: index, column: k }
        return (
          // biome-ignore lint/a11y/useSemanticElements: of the same grid
          <div
            key={column.id}
            role="gridcell"
            data-cell={`${index}:${k}`}
            tabIndex={isFocused || (focusedColumn === null && index === 0 && k === 0) ? 0 : -1}
            aria-readonly={column.writes === null}
            onFocus={() => actions.focus(cell)}
            onDoubleClick={() => {
              if (!actions.write(cell)) actions.open(index)
            }}
            onKeyDown={undefined}
            className="flex shrink-0 items-center overflow-hidden outline-offset-[-2px] focus-visible:outline-2 focus-visible:outline-ink"
            style={{ width: widths[k] }}
          >
            {isWriting && isFocused && row ? (
              <CellEditor
                label={`${column.title} of ${row.chip.code}`}
                value={text}
                onDone={(value, then) => actions.written(cell, value, then)}
                onLeave={actions.leave}
              />
            ) : column.id === 'code' && row ? (
              <CodeCell
                row={row}
                inTray={inTray}
                height={height}
                meaningOf={meaningOf}
                onOpen={() => actions.open(index)}
                onTray={() => actions.tray(row.chip)}
              />
            ) : (
              <span className={`w-full truncate px-2 ${column.isFigure ? 'figures text-right text-xs' : ''}`} title={text}>
                {row ? text : index % 2 ? '' : <span className="block h-2 w-1/2 bg-line/60" />}
              </span>
            )}
          </div>
        )
      })}
    </div>
  )
})

interface CodeCellProps {
  row: TableRow
  inTray: boolean
  height: number
  meaningOf: (color: number) => string
  onOpen: () => void
  onTray: () => void
}

/** What stands for the item in its line: its picture, its code to open the sheet, its dots, and the way into the tray. */
const CodeCell = ({ row: { chip }, inTray, height, meaningOf, onOpen, onTray }: CodeCellProps) => (
  <span className="flex w-full items-center gap-1.5 pr-1">
    {chip.preview ? (
      <img
        src={smallestOf(chip.preview)}
        alt=""
        loading="lazy"
        className="shrink-0 object-cover"
        style={{ height: height - 3, width: (height - 3) * 1.25 }}
      />
    ) : (
      <span className="shrink-0 bg-mount" style={{ height: height - 3, width: (height - 3) * 1.25 }} />
    )}
    <button type="button" tabIndex={-1} onClick={onOpen} className="figures truncate text-xs hover:underline">
      {chip.code}
    </button>
    <Dots colors={chip.dots} meaningOf={meaningOf} />
    <button
      type="button"
      tabIndex={-1}
      aria-pressed={inTray}
      aria-label={inTray ? `Take ${chip.name} out of the tray` : `Put ${chip.name} in the tray`}
      onClick={onTray}
      className={`ml-auto flex size-5 shrink-0 items-center justify-center rounded-sm ${inTray ? 'bg-ink text-mount' : 'text-quiet hover:bg-surround hover:text-ink'}`}
    >
      {inTray ? <Check aria-hidden className="size-3.5" /> : <Plus aria-hidden className="size-3.5" />}
    </button>
  </span>
)
