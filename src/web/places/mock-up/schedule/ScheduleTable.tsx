import type { ReactNode } from 'react'
import { Link, useLocation } from 'react-router'
import type { ScheduleRow } from '#shared/contracts/schedules.contract'
import { hasChanged } from '#shared/schedule-changes'
import { COLUMN_WORDS, cellOf, type ScheduleSection, type ShownColumn, type ShownRow } from '#shared/schedule-layout'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { plural } from '../../../words/states'

const FIGURES: readonly ShownColumn[] = ['quantity', 'gross', 'was', 'edge', 'litres', 'weight', 'cost']
const WIDTHS: Partial<Record<ShownColumn, string>> = { picture: 'w-20', code: 'w-28', where: 'w-[26%]' }

interface Props {
  sections: readonly ScheduleSection[]
  columns: readonly ShownColumn[]
  quantity?: (row: ScheduleRow) => ReactNode
}

/** The lines of a schedule in their groups; held against a kept one, each says what it was. */
export function ScheduleTable({ sections, columns, quantity }: Props) {
  return (
    <div className="bg-sheet px-4 pb-4">
      <table className="w-full">
        <thead>
          <tr className="border-b border-edge text-left">
            {columns.map(c => (
              <th key={c} className={`py-2 pr-4 font-medium ${WIDTHS[c] ?? ''} ${FIGURES.includes(c) ? 'text-right' : ''}`}>
                {c === 'picture' ? <span className="sr-only">{COLUMN_WORDS[c]}</span> : COLUMN_WORDS[c]}
              </th>
            ))}
          </tr>
        </thead>
        {sections.map(({ title, rows }) => (
          <tbody key={title}>
            {title && (
              <tr>
                <th colSpan={columns.length} className="pt-5 pb-1.5 text-left font-medium">
                  {title} <span className="figures text-xs font-normal text-quiet">{rows.length}</span>
                </th>
              </tr>
            )}
            {rows.map(row => (
              <Row key={row.key} row={row} columns={columns} quantity={quantity} />
            ))}
          </tbody>
        ))}
      </table>
    </div>
  )
}

interface RowProps extends Pick<Props, 'columns' | 'quantity'> {
  row: ShownRow
}

function Row({ row, columns, quantity }: RowProps) {
  const location = useLocation()
  return (
    <tr className={`border-t border-line align-top ${row.isGone ? 'text-quiet' : hasChanged(row) ? 'bg-mount' : ''}`}>
      {columns.map(c => {
        const { text, figure } = cellOf(row, c)
        const isWord = c === 'was' && (figure === null || !hasChanged(row))
        return (
          <td
            key={c}
            className={`py-1.5 pr-4 ${FIGURES.includes(c) ? 'text-right whitespace-nowrap' : ''} ${isWord ? 'text-quiet' : FIGURES.includes(c) ? 'figures' : ''}`}
          >
            {c === 'picture' ? (
              <span className="block w-16">{row.code && <PreviewFrame url={row.preview} alt="" />}</span>
            ) : c === 'code' && row.code ? (
              <Link to={`/items/${row.code}`} state={{ behind: location }} className="figures text-xs hover:underline">
                {text}
              </Link>
            ) : c === 'name' ? (
              <>
                <span className={row.code ? 'font-medium' : 'text-quiet'}>{text}</span>
                {row.scaled > 0 && <span className="block text-xs">{plural(row.scaled, 'is', 'are')} not at the true size</span>}
              </>
            ) : (
              (c === 'quantity' && !row.isGone && quantity?.(row)) || text
            )}
          </td>
        )
      })}
    </tr>
  )
}
