import papaparse from 'papaparse'
import type { SetCells, TableRow } from '#shared/contracts/table.contract'
import { NAME, type TableColumn } from './table-columns'

export interface Pasted {
  items: SetCells['items']
  /** Columns that were pasted into though nobody can write there, where something else was pasted than stands there. */
  unwritten: string[]
  /** Cells that fell beyond the last row or column. */
  beyond: number
}

/** Cells as a spreadsheet copies them: rows by line ends, columns by tabs, quoted where they hold either. */
export const parseCells = (text: string): string[][] =>
  papaparse.parse<string[]>(text.replace(/(\r?\n)+$/, ''), { delimiter: '\t' }).data

/** What a cell that is written sets. */
export function toCell(row: TableRow, column: TableColumn, text: string): SetCells['items'][number] | null {
  const value = text.trim()
  if (column.writes === null || value === column.read(row)) return null
  if (column.writes === NAME) return value === '' ? null : { id: row.chip.id, name: value, facts: {} }
  return { id: row.chip.id, facts: { [column.writes]: value === '' ? null : value } }
}

/**
 * Lays copied cells onto a table, the first onto the cell that has the focus.
 * @param rows those from the focused one on @param columns those shown from the focused one on
 */
export function pasteCells(
  cells: readonly (readonly string[])[],
  rows: readonly TableRow[],
  columns: readonly TableColumn[],
): Pasted {
  const byItem = new Map<number, SetCells['items'][number]>()
  const unwritten = new Set<string>()
  let beyond = 0
  cells.forEach((line, down) => {
    line.forEach((text, right) => {
      const [row, column] = [rows[down], columns[right]]
      if (!row || !column) {
        beyond++
        return
      }
      if (column.writes === null) {
        if (text.trim() !== column.read(row)) unwritten.add(column.title)
        return
      }
      const cell = toCell(row, column, text)
      if (!cell) return
      const own = byItem.get(cell.id)
      byItem.set(cell.id, { ...own, ...cell, facts: { ...own?.facts, ...cell.facts } })
    })
  })
  return { items: [...byItem.values()], unwritten: [...unwritten], beyond }
}
