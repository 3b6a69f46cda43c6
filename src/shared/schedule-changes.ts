import type { KeptLine, Schedule, ScheduleRow } from './contracts/schedules.contract'

/** Less than that, in m² or pieces, is no change. */
const LEAST_CHANGE = 0.005

/** How much a row says; null of a pin of which nobody said how much, and nothing was measured: that is not none. */
export const saidAmount = ({ pin, net }: Pick<ScheduleRow, 'pin' | 'net'>): number | null =>
  pin && pin.typed === null && pin.measured === null ? null : net

export const toKeptLine = (row: ScheduleRow): KeptLine => {
  const { key, code, name, unit } = row
  return { key, code, name, unit, net: saidAmount(row) }
}

/** A schedule's lines held against those of an earlier one: each says what it was then, and those that went are told. */
export function sinceKept(rows: readonly ScheduleRow[], kept: readonly KeptLine[]): Pick<Schedule, 'rows' | 'gone'> {
  const before = new Map(kept.map(line => [line.key, line.net]))
  const now = new Set(rows.map(r => r.key))
  return {
    rows: rows.map(row => {
      const net = before.get(row.key)
      return { ...row, before: net === undefined ? 'new' : { net } }
    }),
    gone: kept.filter(line => !now.has(line.key)),
  }
}

/** Whether a row is otherwise than it was in what it is held against. */
export function hasChanged(row: Pick<ScheduleRow, 'pin' | 'net' | 'before'>): boolean {
  if (row.before === null) return false
  if (row.before === 'new') return true
  const now = saidAmount(row)
  const { net } = row.before
  return now === null || net === null ? now !== net : Math.abs(now - net) > LEAST_CHANGE
}
