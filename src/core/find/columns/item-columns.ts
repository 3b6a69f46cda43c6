import { ColorColumn } from '../looks/color-column'
import type { Look } from '../looks/look'
import { BINNINGS, FIGURE_FACETS, type FigureFacet, TERM_FACETS, type TermFacet } from '../query/facets'
import { FigureColumn, TermColumn } from './columns'
import { type Findable, wordsOf } from './findable'
import { mergeSorted } from './merge-sorted'
import { WordIndex } from './word-index'

const collator = new Intl.Collator('en', { numeric: true })

/** Everything that is known of items, each thing as a column; an item has a slot, and its place in each column is that. */
export class ItemColumns {
  readonly words = new WordIndex()
  readonly colors = new ColorColumn()
  /** By slot. */
  readonly looks: (Look | null | undefined)[] = []
  readonly terms = Object.fromEntries(TERM_FACETS.map(f => [f, new TermColumn()])) as Record<TermFacet, TermColumn>
  readonly figures = Object.fromEntries(FIGURE_FACETS.map(f => [f, new FigureColumn(BINNINGS[f])])) as Record<
    FigureFacet,
    FigureColumn
  >
  private readonly slots = new Map<number, number>()
  private readonly free: number[] = []
  private readonly ids: number[] = []
  private readonly codes: string[] = []
  private readonly names: string[] = []
  /** Slots in the order of their codes, and those that are yet to be brought into it. */
  private inCodeOrder: number[] = []
  private readonly unordered = new Set<number>()
  private ordered: Int32Array | null = null
  private ranked: Int32Array | null = null

  /** Items that it holds. */
  get count(): number {
    return this.slots.size
  }

  /** Slots, in use or free again. */
  get size(): number {
    return this.ids.length
  }

  /** Slots in the order of their codes. */
  get inOrder(): Int32Array {
    this.ordered ??= Int32Array.from(this.byCode)
    return this.ordered
  }

  /** The place of each slot's name among all names. */
  get nameRanks(): Int32Array {
    if (!this.ranked) {
      this.ranked = new Int32Array(this.size)
      const slots = [...this.slots.values()].sort((a, b) => collator.compare(this.names[a], this.names[b]))
      for (let place = 0; place < slots.length; place++) this.ranked[slots[place]] = place
    }
    return this.ranked
  }

  idOf(slot: number): number {
    return this.ids[slot]
  }

  codeOf(slot: number): string {
    return this.codes[slot]
  }

  nameOf(slot: number): string {
    return this.names[slot]
  }

  slotOf(id: number): number | undefined {
    return this.slots.get(id)
  }

  slotOfCode(code: string): number | undefined {
    const slot = this.byCode[this.placeOf(code)]
    return slot !== undefined && this.codes[slot] === code ? slot : undefined
  }

  /** Takes items in, each in the place of what was known of it. */
  putAll(items: readonly Findable[]): void {
    this.ordered = this.ranked = null
    this.takeFromOrder(items.flatMap(item => this.slots.get(item.id) ?? []))
    for (const item of items) this.unordered.add(this.put(item))
  }

  /** Takes items out; those that it does not hold are none. */
  removeAll(ids: readonly number[]): void {
    const slots = ids.flatMap(id => this.slots.get(id) ?? [])
    if (slots.length === 0) return
    this.ordered = this.ranked = null
    this.takeFromOrder(slots)
    for (const id of ids) this.slots.delete(id)
    for (const slot of slots) this.clear(slot)
  }

  private clear(slot: number): void {
    this.words.remove(slot)
    for (const facet of TERM_FACETS) this.terms[facet].put(slot, [])
    for (const facet of FIGURE_FACETS) this.figures[facet].put(slot, undefined)
    this.colors.put(slot, [])
    this.looks[slot] = null
    this.free.push(slot)
  }

  /** Returns its slot, which is in no order yet. */
  private put(item: Findable): number {
    const slot = this.slots.get(item.id) ?? this.free.pop() ?? this.ids.length
    this.slots.set(item.id, slot)
    this.ids[slot] = item.id
    this.codes[slot] = item.code
    this.names[slot] = item.name
    for (const facet of TERM_FACETS) this.terms[facet].put(slot, item.terms[facet] ?? [])
    for (const facet of FIGURE_FACETS) this.figures[facet].put(slot, item.figures[facet])
    this.colors.put(slot, item.palette)
    this.looks[slot] = item.look
    this.words.put(slot, wordsOf(item))
    return slot
  }

  private takeFromOrder(slots: readonly number[]): void {
    if (slots.length === 0) return
    const taken = new Set(slots)
    this.inCodeOrder = this.inCodeOrder.filter(slot => !taken.has(slot))
    for (const slot of slots) this.unordered.delete(slot)
  }

  private get byCode(): readonly number[] {
    if (this.unordered.size > 0) {
      const byCode = (a: number, b: number) => compare(this.codes[a], this.codes[b])
      this.inCodeOrder = mergeSorted(this.inCodeOrder, [...this.unordered].sort(byCode), byCode)
      this.unordered.clear()
    }
    return this.inCodeOrder
  }

  private placeOf(code: string): number {
    let low = 0
    let high = this.byCode.length
    while (low < high) {
      const middle = (low + high) >> 1
      if (compare(this.codes[this.byCode[middle]], code) < 0) low = middle + 1
      else high = middle
    }
    return low
  }
}

const compare = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0)
