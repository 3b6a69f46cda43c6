import type { ReactNode } from 'react'
import { Link, useLocation } from 'react-router'
import type { Schedule, ScheduleColumn, ScheduleRow } from '#shared/contracts/schedules.contract'
import { COLUMN_WORDS, cellOf, type ScheduleSection } from '#shared/schedule-layout'
import { formatNumber } from '#shared/units'
import { PreviewFrame } from '../../../components/PreviewFrame'
import { plural } from '../../../words/states'

const FIGURES: readonly ScheduleColumn[] = ['quantity', 'gross', 'edge', 'litres', 'weight', 'cost']
const WIDTHS: Partial<Record<ScheduleColumn, string>> = { picture: 'w-20', code: 'w-28', where: 'w-[26%]' }

interface Props {
  schedule: Schedule
  sections: readonly ScheduleSection[]
  columns: readonly ScheduleColumn[]
  quantity?: (row: ScheduleRow) => ReactNode
}

/** The lines of a schedule in their groups; against a kept version each says what it was. */
export function ScheduleTable({ schedule, sections, columns, quantity }: Props) {
  const isCompared = schedule.rows.some(r => r.before !== null)
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
            {isCompared && <th className="py-2 text-right font-medium">Was</th>}
          </tr>
        </thead>
        {sections.map(({ title, rows }) => (
          <tbody key={title}>
            {title && (
              <tr>
                <th colSpan={columns.length + (isCompared ? 1 : 0)} className="pt-5 pb-1.5 text-left font-medium">
                  {title} <span className="figures text-xs font-normal text-quiet">{rows.length}</span>
                </th>
              </tr>
            )}
            {rows.map(row => (
              <Row key={row.key} row={row} columns={columns} isCompared={isCompared} quantity={quantity} />
            ))}
          </tbody>
        ))}
      </table>
      {schedule.gone.length > 0 && (
        <section aria-label="Not in it any more" className="mt-5">
          <h2 className="mb-1.5 font-medium">Not in it any more</h2>
          <ul>
            {schedule.gone.map(g => (
              <li key={g.key} className="flex gap-4 border-t border-line py-1 text-quiet">
                <span className="figures w-28">{g.code}</span>
                <span className="flex-1">{g.name}</span>
                <span className="figures">{sayAmount(g.before, g.unit)}</span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  )
}

const sayAmount = (value: number, unit: ScheduleRow['unit']): string =>
  unit === 'm2' ? `${formatNumber(value, 2)} m²` : formatNumber(value, 0)

interface RowProps extends Pick<Props, 'columns' | 'quantity'> {
  row: ScheduleRow
  isCompared: boolean
}

function Row({ row, columns, isCompared, quantity }: RowProps) {
  const location = useLocation()
  const hasChanged = row.before !== null && Math.abs(row.before - row.net) > 0.005
  return (
    <tr className={`border-t border-line align-top ${hasChanged ? 'bg-mount' : ''}`}>
      {columns.map(c => {
        const { text } = cellOf(row, c)
        return (
          <td key={c} className={`py-1.5 pr-4 ${FIGURES.includes(c) ? 'figures text-right whitespace-nowrap' : ''}`}>
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
              (c === 'quantity' && quantity?.(row)) || text
            )}
          </td>
        )
      })}
      {isCompared && (
        <td className="figures py-1.5 text-right whitespace-nowrap text-quiet">
          {row.before === null ? '' : row.before === 0 ? 'new' : hasChanged ? sayAmount(row.before, row.unit) : 'the same'}
        </td>
      )}
    </tr>
  )
}
