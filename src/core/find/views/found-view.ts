import type { ItemColumns } from '../columns/item-columns'
import { BINNINGS, edgeOf, FIGURE_FACETS, type FigureFacet, TERM_FACETS, type TermFacet } from '../query/facets'
import { type Asker, type FindQuery, IN_NONE } from '../query/find-query'
import type { Clause } from './clause'
import { type FoundGroup, groupSlots } from './group-slots'
import { addFailures, failsAt, markFound } from './marks'
import { gradeOf, sortSlots } from './sort-slots'

export interface Histogram {
  /** Where bins begin, and where the last one ends: one more than counts. */
  edges: number[]
  counts: number[]
  /** Items of the view without the figure. */
  unknown: number
}

export interface FacetCounts {
  terms: Partial<Record<TermFacet, Map<string, number>>>
  figures: Partial<Record<FigureFacet, Histogram>>
  sets: Record<string, Map<string, number>>
}

/** What stands in the way of an empty view. */
export interface Drop {
  key: string
  /** Items that would be found without it. */
  count: number
}

interface Arranged {
  slots: Int32Array
  groups: FoundGroup[] | null
}

/** Some slots, as a list and as marks. */
interface Part {
  slots: Int32Array
  marks: Uint8Array
}

/** What a query found; each thing asked of it is worked out when it is asked. */
export class FoundView {
  readonly total: number
  /** How many conditions an item fails. */
  private readonly failures: Uint8Array
  /** 1 for what fails none, and is seen. */
  private readonly found: Uint8Array
  private facetCounts: FacetCounts | null = null
  private arranged: Arranged | null = null
  private whole: Part | null = null
  /** Slots that fail one condition at most: no facet is counted over any other. */
  private near: Int32Array | null = null

  constructor(
    private readonly columns: ItemColumns,
    private readonly seen: Uint8Array,
    private readonly clauses: readonly Clause[],
    private readonly query: FindQuery,
    private readonly asker: Asker,
  ) {
    const { size } = columns
    const failures = new Uint8Array(size)
    for (const { passes } of clauses) addFailures(failures, passes)
    const { marks, total } = markFound(seen, failures)
    this.failures = failures
    this.found = marks
    this.total = total
  }

  /** A page of ids in the order asked for. */
  page(offset: number, limit: number): number[] {
    return Array.from(this.order().subarray(offset, offset + limit), slot => this.columns.idOf(slot))
  }

  /** Everything that was found, in the order asked for, as ids. */
  ids(): number[] {
    return this.page(0, this.total)
  }

  /** How what was found falls into the groups asked for, in their order; null where none were. */
  groups(): readonly FoundGroup[] | null {
    this.order()
    return this.arranged?.groups ?? null
  }

  /** Words that were taken for others, because nothing is called what was typed. */
  takenFor(): { typed: string; meant: string }[] {
    return this.clauses.flatMap(({ key, takenFor }) => (takenFor ? [{ typed: key.slice('word:'.length), meant: takenFor }] : []))
  }

  /** Typed words of which nothing that the asker may see has anything. */
  unfoundWords(): string[] {
    return this.clauses
      .filter(c => c.grades && !c.passes.some((pass, slot) => pass !== 0 && this.seen[slot] === 1))
      .map(c => c.key.slice('word:'.length))
  }

  /** For each condition how many items would be found without it alone; only those that stand in the way of some. */
  drops(): Drop[] {
    const { seen, failures } = this
    return this.clauses
      .map(({ key, passes }) => {
        let count = 0
        for (let slot = 0; slot < seen.length; slot++) if (failures[slot] === 1) count += seen[slot] * failsAt(passes, slot)
        return { key, count }
      })
      .filter(d => d.count > 0)
      .sort((a, b) => b.count - a.count)
  }

  /** Of what was not found, ids of what answers most of what was asked, and best; nothing that answers none of it. */
  nearest(most: number): number[] {
    const asked = this.clauses.filter(c => !c.isTacit)
    const isGraded = asked.some(c => c.grades ?? c.scores)
    const near: { slot: number; answered: number; grade: number }[] = []
    for (const slot of this.columns.inOrder) {
      if (this.seen[slot] === 0 || this.failures[slot] === 0) continue
      const answered = asked.filter(c => c.passes[slot] !== 0).length
      if (answered > 0) near.push({ slot, answered, grade: gradeOf(this.clauses, slot) })
    }
    near.sort((a, b) => b.answered - a.answered || b.grade - a.grade)
    // What is only of the right kind is near nothing that was said, where something is.
    const told = isGraded && near.some(n => n.grade > 0) ? near.filter(n => n.grade > 0) : near
    return told.slice(0, most).map(n => this.columns.idOf(n.slot))
  }

  /** Counts of every facet; each leaves its own choice out, so that it says what another one would give. */
  facets(): FacetCounts {
    this.facetCounts ??= this.countFacets()
    return this.facetCounts
  }

  /** Counts of some values of one facet alone. */
  countSome(facet: TermFacet, isWanted: (value: string) => boolean): Map<string, number> {
    const isNarrowed = this.clauses.some(c => c.key === facet)
    return this.columns.terms[facet].countSome(isWanted, isNarrowed ? this.partFor(facet).marks : this.found)
  }

  /** How many of what was found hold a word. */
  countWord(term: string): number {
    return this.columns.words.countTerm(term, this.found)
  }

  /** Of some words those that most of what was found holds, and how many do; none that nothing holds. */
  countCommonest(words: readonly string[], most: number): { word: string; count: number }[] {
    return this.columns.words.countCommonest(words, this.found, most)
  }

  private countFacets(): FacetCounts {
    const facets: FacetCounts = { terms: {}, figures: {}, sets: {} }
    for (const facet of TERM_FACETS) {
      const { slots, marks } = this.partFor(facet)
      facets.terms[facet] = this.columns.terms[facet].count(slots, marks)
    }
    for (const facet of FIGURE_FACETS) {
      const histogram = this.histogramOf(facet, this.partFor(facet).slots)
      if (histogram) facets.figures[facet] = histogram
    }
    for (const [facet, sets] of Object.entries(this.asker.sets)) facets.sets[facet] = this.countSets(sets, this.partFor(facet))
    return facets
  }

  /** What a facet is counted over: what was found, its own condition left out. */
  private partFor(facet: string): Part {
    const own = this.clauses.findIndex(c => c.key === facet)
    return own < 0 ? this.wholePart() : this.part(own)
  }

  private wholePart(): Part {
    this.whole ??= this.part(-1)
    return this.whole
  }

  /** What passes every condition but, perhaps, one of them. */
  private part(except: number): Part {
    const { seen, failures } = this
    const own = except < 0 ? null : this.clauses[except].passes
    this.near ??= listNear(seen, failures)
    const { near } = this
    const marks = new Uint8Array(failures.length)
    const slots = new Int32Array(near.length)
    let n = 0
    for (let k = 0; k < near.length; k++) {
      const slot = near[k]
      const isIn = failsAt(failures, slot) | (own ? failsAt(own, slot) : 0)
      marks[slot] = isIn
      slots[n] = slot
      n += isIn
    }
    return { slots: slots.subarray(0, n), marks }
  }

  private histogramOf(facet: FigureFacet, slots: Int32Array): Histogram | null {
    const binning = BINNINGS[facet]
    if (!binning) return null
    const counts = this.columns.figures[facet].count(slots)
    const known = counts.subarray(0, binning.bins)
    const first = known.findIndex(c => c > 0)
    if (first < 0) return null
    const last = known.findLastIndex(c => c > 0)
    return {
      edges: Array.from({ length: last - first + 2 }, (_, k) => edgeOf(binning, first + k)),
      counts: Array.from(known.subarray(first, last + 1)),
      unknown: counts[binning.bins],
    }
  }

  private countSets(sets: ReadonlyMap<string, readonly number[]>, { slots, marks }: Part): Map<string, number> {
    const inSome = new Uint8Array(this.failures.length)
    const counts = new Map<string, number>()
    let some = 0
    for (const [value, ids] of sets) {
      let count = 0
      for (const id of ids) {
        const slot = this.columns.slotOf(id)
        if (slot === undefined || marks[slot] === 0) continue
        count++
        if (inSome[slot] === 0) some++
        inSome[slot] = 1
      }
      if (count > 0) counts.set(value, count)
    }
    if (slots.length > some) counts.set(IN_NONE, slots.length - some)
    return counts
  }

  private order(): Int32Array {
    this.arranged ??= this.arrange()
    return this.arranged.slots
  }

  /** What was found in the order asked for, group by group where groups were. */
  private arrange(): Arranged {
    const { columns, found, total } = this
    // What is not in it is written over by the next that is; behind the last there is one place more.
    const slots = new Int32Array(total + 1)
    let n = 0
    for (const slot of columns.inOrder) {
      slots[n] = slot
      n += found[slot]
    }
    const { group, order } = this.query
    const sorted = sortSlots(columns, slots.subarray(0, total), order, this.clauses)
    return group === '' ? { slots: sorted, groups: null } : groupSlots(this.columns, sorted, group)
  }
}

function listNear(seen: Uint8Array, failures: Uint8Array): Int32Array {
  const near = new Int32Array(failures.length)
  let n = 0
  for (let slot = 0; slot < failures.length; slot++) {
    near[n] = slot
    n += seen[slot] * ((failures[slot] - 2) >>> 31)
  }
  // Kept with the view, and mostly few.
  return near.slice(0, n)
}
