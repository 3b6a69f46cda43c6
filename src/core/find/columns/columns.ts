import { type Binning, binOf } from '../query/facets'

const NONE = -1
/** Looking one up costs as much as going past so many. */
const FEW = 8

/**
 * Values of one facet as small numbers: the first of each slot in a row of its own, which is all there is for most, and further ones
 * beside it.
 */
export class TermColumn {
  readonly values: string[] = []
  private readonly codes = new Map<string, number>()
  private firsts = new Int32Array(0)
  private readonly more = new Map<number, readonly number[]>()
  /** The same as pairs in two rows, which are read many times faster; null where it must be made anew. */
  private pairs: { slots: Int32Array; codes: Int32Array } | null = null
  /** Slots by code, code after code from where each begins; null where it must be made anew. */
  private lists: { starts: Int32Array; slots: Int32Array } | null = null

  put(slot: number, values: readonly string[]): void {
    this.lists = null
    if (slot >= this.firsts.length) this.firsts = grow(this.firsts, slot, NONE)
    const codes = [...new Set(values)].map(value => this.codeFor(value))
    this.firsts[slot] = codes[0] ?? NONE
    if (codes.length > 1) this.more.set(slot, codes.slice(1))
    else if (!this.more.delete(slot)) return
    this.pairs = null
  }

  valuesOf(slot: number): string[] {
    return [this.firsts[slot], ...(this.more.get(slot) ?? [])].filter(code => code !== NONE).map(code => this.values[code])
  }

  firstOf(slot: number): string | undefined {
    return this.values[this.firsts[slot]]
  }

  /** Sets 1 where a slot has a value that is wanted. */
  pass(isWanted: (value: string) => boolean, passes: Uint8Array): void {
    const wanted = Uint8Array.from(this.values, value => (isWanted(value) ? 1 : 0))
    const { firsts } = this
    for (let slot = 0; slot < passes.length; slot++) if (firsts[slot] !== NONE) passes[slot] = wanted[firsts[slot]]
    const more = this.furtherPairs()
    for (let k = 0; k < more.slots.length; k++) if (wanted[more.codes[k]] === 1) passes[more.slots[k]] = 1
  }

  /** How many of the slots that are marked have each value. */
  count(slots: Int32Array, marks: Uint8Array): Map<string, number> {
    const counts = new Int32Array(this.values.length + 1)
    const { firsts } = this
    for (let i = 0; i < slots.length; i++) counts[firsts[slots[i]] + 1]++
    const more = this.furtherPairs()
    // Of few slots what each has besides is asked for; of many all of it is gone through.
    if (slots.length < more.slots.length / FEW)
      for (const slot of slots) for (const code of this.more.get(slot) ?? []) counts[code + 1]++
    else for (let k = 0; k < more.slots.length; k++) counts[more.codes[k] + 1] += marks[more.slots[k]]
    const found = new Map<string, number>()
    for (let code = 0; code < this.values.length; code++) if (counts[code + 1] > 0) found.set(this.values[code], counts[code + 1])
    return found
  }

  /** How many of the marked slots have each of some values: only what has them is gone through. */
  countSome(isWanted: (value: string) => boolean, marks: Uint8Array): Map<string, number> {
    const { starts, slots } = this.slotLists()
    const found = new Map<string, number>()
    for (let code = 0; code < this.values.length; code++) {
      if (!isWanted(this.values[code])) continue
      let count = 0
      for (let k = starts[code]; k < starts[code + 1]; k++) count += marks[slots[k]]
      if (count > 0) found.set(this.values[code], count)
    }
    return found
  }

  private slotLists(): { starts: Int32Array; slots: Int32Array } {
    if (this.lists) return this.lists
    const { firsts } = this
    const more = this.furtherPairs()
    const starts = new Int32Array(this.values.length + 1)
    for (const code of firsts) if (code !== NONE) starts[code + 1]++
    for (const code of more.codes) starts[code + 1]++
    for (let code = 0; code < this.values.length; code++) starts[code + 1] += starts[code]
    const ends = starts.slice()
    const slots = new Int32Array(starts[this.values.length])
    for (let slot = 0; slot < firsts.length; slot++) if (firsts[slot] !== NONE) slots[ends[firsts[slot]]++] = slot
    for (let k = 0; k < more.slots.length; k++) slots[ends[more.codes[k]]++] = more.slots[k]
    this.lists = { starts, slots }
    return this.lists
  }

  private furtherPairs(): { slots: Int32Array; codes: Int32Array } {
    if (this.pairs) return this.pairs
    let length = 0
    for (const codes of this.more.values()) length += codes.length
    const [slots, further] = [new Int32Array(length), new Int32Array(length)]
    let k = 0
    for (const [slot, codes] of this.more)
      for (const code of codes) {
        slots[k] = slot
        further[k++] = code
      }
    this.pairs = { slots, codes: further }
    return this.pairs
  }

  private codeFor(value: string): number {
    let code = this.codes.get(value)
    if (code === undefined) {
      code = this.values.length
      this.values.push(value)
      this.codes.set(value, code)
    }
    return code
  }
}

const NO_BIN = 255

/** One figure for each slot; NaN where there is none. */
export class FigureColumn {
  private values = new Float64Array(0)
  private bins = new Uint8Array(0)

  constructor(private readonly binning: Binning | null) {}

  put(slot: number, value: number | undefined): void {
    if (slot >= this.values.length) {
      this.values = grow(this.values, slot, Number.NaN)
      this.bins = grow(this.bins, slot, NO_BIN)
    }
    const isKnown = value !== undefined && Number.isFinite(value)
    this.values[slot] = isKnown ? value : Number.NaN
    this.bins[slot] = isKnown && this.binning ? binOf(this.binning, value) : NO_BIN
  }

  valueOf(slot: number): number {
    return this.values[slot]
  }

  /** Sets 1 where a figure is known and within both ends. */
  pass(low: number | null, high: number | null, passes: Uint8Array): void {
    const [from, to] = [low ?? Number.NEGATIVE_INFINITY, high ?? Number.POSITIVE_INFINITY]
    for (let slot = 0; slot < passes.length; slot++) if (this.values[slot] >= from && this.values[slot] <= to) passes[slot] = 1
  }

  /** How many of the slots fall into each bin; how many have no figure comes last. */
  count(slots: Int32Array): Int32Array {
    const counts = new Int32Array(NO_BIN + 1)
    const { bins: binsOf } = this
    for (let i = 0; i < slots.length; i++) counts[binsOf[slots[i]]]++
    const bins = this.binning?.bins ?? 0
    const found = new Int32Array(bins + 1)
    found.set(counts.subarray(0, bins))
    found[bins] = counts[NO_BIN]
    return found
  }
}

function grow<T extends Int32Array | Float64Array | Uint8Array>(array: T, slot: number, filler: number): T {
  const larger = new (array.constructor as new (size: number) => T)(Math.max(1024, 2 ** Math.ceil(Math.log2(slot + 1))))
  larger.fill(filler)
  larger.set(array)
  return larger
}
