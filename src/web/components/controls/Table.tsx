import type { ReactNode } from 'react'

export interface Column<T> {
  head: ReactNode
  /** Figures stand at the right, in the typeface of figures. */
  isFigure?: boolean
  /** Its width, as a class. */
  width?: string
  cell: (row: T) => ReactNode
}

interface Props<T> {
  /** Its name for who hears the page. */
  label: string
  columns: readonly Column<T>[]
  rows: readonly T[]
  keyOf: (row: T) => string | number
}

/** Rows whose columns line up, with heads that stay in sight. */
export function Table<T>({ label, columns, rows, keyOf }: Props<T>) {
  return (
    <table aria-label={label} className="w-full border-collapse">
      <thead>
        <tr className="border-b border-edge text-left align-bottom text-xs text-quiet">
          {columns.map((column, i) => (
            <th
              key={i}
              scope="col"
              className={`py-1 pr-4 font-normal last:pr-0 ${column.width ?? ''} ${column.isFigure ? 'text-right' : ''}`}
            >
              {column.head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(row => (
          <tr key={keyOf(row)} className="border-b border-line align-baseline">
            {columns.map((column, i) => (
              <td key={i} className={`py-1.5 pr-4 last:pr-0 ${column.isFigure ? 'figures text-right text-xs' : ''}`}>
                {column.cell(row)}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  )
}
