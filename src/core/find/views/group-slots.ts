import type { ItemColumns } from '../columns/item-columns'
import { COLOR_NAMES, nameLab } from '../looks/color-words'
import type { Group } from '../query/find-order'
import { rankTerms, sortByKey } from './sort-slots'

export interface FoundGroup {
  /** A value of the facet, or the name of a colour; empty for what has none. */
  value: string
  count: number
}

/** Slots put together by a value, in the order of the values and within each as they were; what has none comes last. */
export function groupSlots(columns: ItemColumns, slots: Int32Array, group: Group): { slots: Int32Array; groups: FoundGroup[] } {
  const groupOf =
    group === 'color' ? (slot: number) => colorNameOf(columns, slot) : (slot: number) => columns.terms[group].firstOf(slot) ?? ''
  const rank = group === 'color' ? (slot: number) => rankOfColor(colorNameOf(columns, slot)) : rankTerms(columns, group)
  const sorted = sortByKey(slots, rank)
  const groups: FoundGroup[] = []
  for (const slot of sorted) {
    const value = groupOf(slot)
    const last = groups.at(-1)
    if (last?.value === value) last.count++
    else groups.push({ value, count: 1 })
  }
  return { slots: sorted, groups }
}

/** What the largest colour of a slot is called; empty where there is none. */
function colorNameOf(columns: ItemColumns, slot: number): string {
  const lab = columns.colors.largestOf(slot)
  return lab ? nameLab(...lab) : ''
}

const rankOfColor = (name: string): number => (name === '' ? Number.NaN : COLOR_NAMES.indexOf(name))
