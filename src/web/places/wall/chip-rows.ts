import type { WallView } from '#shared/contracts/find.contract'

type Group = NonNullable<WallView['groups']>[number]

/** A row of chips, or the head of a group. */
export type GridRow = { head: Group; first: number } | { head: null; first: number; count: number }

/** How chips lie in rows; each group begins one, under its head. */
export class ChipRows {
  readonly rows: readonly GridRow[]

  constructor(
    total: number,
    readonly columns: number,
    groups: readonly Group[] | null,
  ) {
    const rows: GridRow[] = []
    let first = 0
    for (const group of groups ?? [{ value: '', count: total }]) {
      if (groups) rows.push({ head: group, first })
      const end = first + group.count
      for (; first < end; first += columns) rows.push({ head: null, first, count: Math.min(columns, end - first) })
      first = end
    }
    this.rows = rows
  }

  /** The row in which a chip lies. */
  rowOf(index: number): number {
    let [low, high] = [0, this.rows.length - 1]
    while (low < high) {
      const middle = (low + high + 1) >> 1
      if (this.rows[middle].first <= index) low = middle
      else high = middle - 1
    }
    return low
  }

  /** The row to begin with so that a chip is in sight: the head of its group where it is the first of it. */
  topRowOf(index: number): number {
    const row = this.rowOf(index)
    return this.rows[row - 1]?.head ? row - 1 : row
  }

  /** The chip above or below another: in the same column, or the last of a row that ends before it. */
  above(index: number, rows: -1 | 1): number {
    const from = this.rowOf(index)
    const column = index - this.rows[from].first
    for (let row = from + rows; row >= 0 && row < this.rows.length; row += rows) {
      const next = this.rows[row]
      if (next.head === null) return next.first + Math.min(column, next.count - 1)
    }
    return index
  }
}
