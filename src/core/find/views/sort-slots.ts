import type { ItemColumns } from '../columns/item-columns'
import { FIGURE_FACETS, type FigureFacet, type TermFacet } from '../query/facets'
import { isNamedOrder, type Order, readSort } from '../query/find-order'
import type { Clause } from './clause'

const collator = new Intl.Collator('en', { numeric: true })

/** Of a colour or likeness, what counts as much as one whole grade of a word. */
const SCORE_GRADES = 20

/** How well an item answers what was asked. */
export function gradeOf(clauses: readonly Clause[], slot: number): number {
  let grade = 0
  for (const { grades, scores } of clauses) grade += (grades?.[slot] ?? 0) + SCORE_GRADES * (scores?.[slot] ?? 0)
  return grade
}

/** Slots, given by their codes, in an order; those that are equal in it stay as they were, and what has no value comes last. */
export function sortSlots(columns: ItemColumns, slots: Int32Array, order: Order, clauses: readonly Clause[]): Int32Array {
  if (isNamedOrder(order)) return sortNamed(columns, slots, order, clauses)
  const { column, isDown } = readSort(order)
  if (column === 'code') return isDown ? slots.reverse() : slots
  if (isFigure(column)) {
    const figure = columns.figures[column]
    return sortByKey(slots, isDown ? slot => -figure.valueOf(slot) : slot => figure.valueOf(slot))
  }
  const rank = column === 'name' ? (slot: number) => columns.nameRanks[slot] : rankTerms(columns, column)
  return sortByKey(slots, isDown ? slot => -rank(slot) : rank)
}

const isFigure = (column: string): column is FigureFacet => (FIGURE_FACETS as readonly string[]).includes(column)

function sortNamed(columns: ItemColumns, slots: Int32Array, order: Order & string, clauses: readonly Clause[]): Int32Array {
  const { figures, colors } = columns
  switch (order) {
    case 'best':
      if (clauses.some(c => c.scores)) return sortByKey(slots, slot => -gradeOf(clauses, slot))
      return clauses.some(c => c.grades) ? sortByGrade(slots, clauses) : slots
    case 'newest':
      return sortByKey(slots, slot => -figures.addedDay.valueOf(slot))
    case 'changed':
      return sortByKey(slots, slot => -figures.changedDay.valueOf(slot))
    case 'width':
      return sortByKey(slots, slot => figures.widthMm.valueOf(slot))
    case 'light':
      return sortByKey(slots, slot => -figures.lrv.valueOf(slot))
    case 'hue':
      return sortByKey(slots, slot => colors.hueOf(slot))
    default:
      return slots
  }
}

/** The place of the first value of a slot among all values of its facet. */
export function rankTerms(columns: ItemColumns, facet: TermFacet): (slot: number) => number {
  const column = columns.terms[facet]
  const ranks = new Map([...column.values].sort(collator.compare).map((value, rank) => [value, rank]))
  return slot => ranks.get(column.firstOf(slot) ?? '') ?? Number.NaN
}

/** The best first where only words were asked for: whole grades, of which there are few, go into a heap each. */
function sortByGrade(slots: Int32Array, clauses: readonly Clause[]): Int32Array {
  const grades = new Uint16Array(slots.length)
  let most = 0
  for (const { grades: own } of clauses) if (own) for (let k = 0; k < slots.length; k++) grades[k] += own[slots[k]]
  for (let k = 0; k < grades.length; k++) if (grades[k] > most) most = grades[k]
  const starts = new Int32Array(most + 2)
  for (let k = 0; k < grades.length; k++) starts[most - grades[k] + 1]++
  for (let heap = 1; heap < starts.length; heap++) starts[heap] += starts[heap - 1]
  const sorted = new Int32Array(slots.length)
  for (let k = 0; k < slots.length; k++) sorted[starts[most - grades[k]]++] = slots[k]
  return sorted
}

/** So many slots and so many steps of a key fit together into one number. */
const STEPS = 2 ** 26
const MOST_SLOTS = 2 ** 26

/**
 * Slots by a key, the least first; equal ones stay in the order they are in. Key and place go into one number, so
 * that numbers are sorted and nothing is called to compare them; keys closer than a 2^26th of their span count as equal.
 */
export function sortByKey(slots: Int32Array, keyOf: (slot: number) => number): Int32Array {
  const keys = Float64Array.from(slots, keyOf)
  let [low, high] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const key of keys) {
    if (Number.isNaN(key)) continue
    low = Math.min(low, key)
    high = Math.max(high, key)
  }
  const scale = high > low ? (STEPS - 2) / (high - low) : 0
  for (let place = 0; place < keys.length; place++) {
    const step = Number.isNaN(keys[place]) ? STEPS - 1 : Math.round((keys[place] - low) * scale)
    keys[place] = step * MOST_SLOTS + place
  }
  keys.sort()
  return Int32Array.from(keys, key => slots[key % MOST_SLOTS])
}
