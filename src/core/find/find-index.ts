import type { Findable } from './columns/findable'
import { ItemColumns } from './columns/item-columns'
import type { LookGroup } from './looks/look'
import { FIGURE_FACETS, TERM_FACETS, type TermFacet } from './query/facets'
import { type Asker, type FindQuery, IN_NONE, isWithin, type LikeWish, withAncestors } from './query/find-query'
import { readFigure } from './query/read-figures'
import type { Clause } from './views/clause'
import { FoundView } from './views/found-view'
import { findLike, measureSpreads } from './views/likeness'
import { splitWords } from './words/fold-words'
import { NamedValues } from './words/named-values'
import { type Concept, Vocabulary } from './words/vocabulary'

/** A query of more words than this is a text, and its rest is left out. */
const MOST_WORDS = 12
const HIDDEN_STATE = 'withdrawn'
/** Each some 50 KB for a word at 50,000 items. */
const MOST_IN_COMMON = 100

/**
 * A library held in memory in columns, so that a view with all its counts is a few passes over arrays, and there is no view to foresee.
 * Before, counts were kept by triggers in the database: for foreseen views only, and every change of an item paid for them under one lock.
 */
export class FindIndex {
  readonly columns = new ItemColumns()
  vocabulary = new Vocabulary([])
  /** Counts changes; what was found at another one may be out of date. */
  revision = 0
  private readonly named = new Map<
    TermFacet,
    { names: NamedValues; titles: ReadonlyMap<string, string> | undefined; count: number }
  >()
  /** What many queries have in common, until something changes: what somebody sees, what is not withdrawn, what a word finds. */
  private readonly common = new Map<string, unknown>()
  /** By the libraries among whose items it was measured. */
  private readonly measured = new Map<string, { count: number; spreads: Record<LookGroup, number> }>()

  setVocabulary(concepts: readonly Concept[]): void {
    this.vocabulary = new Vocabulary(concepts)
    this.noteChange()
  }

  /** Takes items in, each in the place of what was known of it. */
  putAll(items: readonly Findable[]): void {
    this.columns.putAll(items)
    this.noteChange()
  }

  removeAll(ids: readonly number[]): void {
    this.columns.removeAll(ids)
    this.noteChange()
  }

  private noteChange(): void {
    this.revision++
    this.common.clear()
  }

  /** Works something out once for as long as nothing changes. */
  private once<T>(key: string, work: () => T): T {
    const kept = this.common.get(key)
    if (kept !== undefined) return kept as T
    if (this.common.size >= MOST_IN_COMMON) this.common.clear()
    const made = work()
    this.common.set(key, made)
    return made
  }

  find(query: FindQuery, asker: Asker): FoundView {
    const who = JSON.stringify([[...asker.libraries].sort(), [...(asker.barredLicences ?? [])].sort()])
    const seen = this.once(`seen ${who}`, () => this.seenBy(asker))
    return new FoundView(this.columns, seen, this.clausesOf(query, asker, seen, who), query, asker)
  }

  private seenBy({ libraries, barredLicences }: Asker): Uint8Array {
    const seen = this.passes(passes => this.columns.terms.library.pass(value => libraries.has(value), passes))
    if (!barredLicences || barredLicences.size === 0) return seen
    const barred = this.passes(passes => this.columns.terms.licence.pass(value => barredLicences.has(value), passes))
    for (let slot = 0; slot < seen.length; slot++) seen[slot] &= 1 - barred[slot]
    return seen
  }

  private clausesOf(query: FindQuery, asker: Asker, seen: Uint8Array, who: string): Clause[] {
    const clauses: Clause[] = []
    const states = this.columns.terms.state
    // "sofa under 2.2 m" means what it says, wherever the bound stands.
    const said = readFigure(query.words)
    const words = splitWords(said ? said.rest : query.words).slice(0, MOST_WORDS)
    // Who types on asks for the words before again, and others type the same.
    const matched = this.once(`words ${words.join(' ')} of ${who}`, () => this.columns.words.match(words, this.vocabulary, seen))
    for (const { text, grades, takenFor } of matched) clauses.push({ key: `word:${text}`, passes: grades, grades, takenFor })
    if (said)
      clauses.push({
        key: `word:${said.said}`,
        passes: this.passes(passes => this.columns.figures[said.facet].pass(said.low, said.high, passes)),
      })
    for (const facet of TERM_FACETS) {
      const wanted = query.terms[facet]
      if (!wanted || wanted.length === 0) {
        // Withdrawn items stay out of sight unless somebody asks for them.
        if (facet === 'state')
          clauses.push({
            key: facet,
            isTacit: true,
            passes: this.once('not withdrawn', () => this.passes(p => states.pass(s => s !== HIDDEN_STATE, p))),
          })
        continue
      }
      const isWanted =
        facet === 'category' ? (value: string) => wanted.some(w => isWithin(value, w)) : (value: string) => wanted.includes(value)
      clauses.push({ key: facet, passes: this.passes(passes => this.columns.terms[facet].pass(isWanted, passes)) })
    }
    for (const facet of FIGURE_FACETS) {
      const range = query.figures[facet]
      if (!range || (range.low === null && range.high === null)) continue
      clauses.push({ key: facet, passes: this.passes(passes => this.columns.figures[facet].pass(range.low, range.high, passes)) })
    }
    query.colors.forEach(({ color, tolerance }, k) => {
      const scores = this.columns.colors.score(color, tolerance, this.columns.size)
      clauses.push({ key: `color:${k}`, passes: Uint8Array.from(scores, s => (s > 0 ? 1 : 0)), scores })
    })
    if (query.like) clauses.push(this.likeClause(query.like, seen, asker.libraries))
    for (const [facet, chosen] of Object.entries(query.sets))
      if (chosen.length > 0) clauses.push({ key: facet, passes: this.inSets(asker.sets[facet] ?? new Map(), chosen) })
    return clauses
  }

  private likeClause({ looks, kind, weights }: LikeWish, seen: Uint8Array, libraries: ReadonlySet<string>): Clause {
    const ofKind = this.passes(passes => this.columns.terms.kind.pass(k => k === kind, passes))
    for (let slot = 0; slot < ofKind.length; slot++) ofKind[slot] &= seen[slot]
    const unlike = findLike(this.columns, looks, weights, this.spreads(libraries), ofKind)
    const scores = Float32Array.from(unlike, u => (u === Number.POSITIVE_INFINITY ? 0 : 1 / (1 + u)))
    return { key: 'like', passes: Uint8Array.from(scores, s => (s > 0 ? 1 : 0)), scores }
  }

  /**
   * Values of a facet by what they are called, of categories also those that others lie in; kept until there are more of them.
   * @param titles what a value is called, where not by itself; another map counts as other titles
   */
  namedValues(facet: TermFacet, titles?: ReadonlyMap<string, string>): NamedValues {
    const { values } = this.columns.terms[facet]
    const kept = this.named.get(facet)
    if (kept?.count === values.length && kept.titles === titles) return kept.names
    const all = facet === 'category' ? withAncestors(new Map(values.map(v => [v, 0]))).keys() : values
    const names = new NamedValues(all, titles)
    this.named.set(facet, { names, titles, count: values.length })
    return names
  }

  /**
   * What things typically differ by among those in some libraries, and in no other: what somebody may not see changes no distance of theirs.
   * Measured again when there are many more, or many fewer.
   */
  spreads(libraries: ReadonlySet<string>): Readonly<Record<LookGroup, number>> {
    const key = [...libraries].sort().join(' ')
    const seen = this.passes(passes => this.columns.terms.library.pass(value => libraries.has(value), passes))
    const count = seen.reduce((sum, one) => sum + one, 0)
    let measured = this.measured.get(key)
    if (!measured || Math.abs(count - measured.count) > 0.1 * measured.count) {
      measured = { count, spreads: measureSpreads(this.columns, seen) }
      this.measured.set(key, measured)
    }
    return measured.spreads
  }

  private inSets(sets: ReadonlyMap<string, readonly number[]>, chosen: readonly string[]): Uint8Array {
    const mark = (passes: Uint8Array, values: Iterable<string>, what: number) => {
      for (const value of values)
        for (const id of sets.get(value) ?? []) {
          const slot = this.columns.slotOf(id)
          if (slot !== undefined) passes[slot] = what
        }
    }
    const passes = new Uint8Array(this.columns.size)
    if (chosen.includes(IN_NONE)) {
      passes.fill(1)
      mark(passes, sets.keys(), 0)
    }
    mark(passes, chosen, 1)
    return passes
  }

  private passes(fill: (passes: Uint8Array) => void): Uint8Array {
    const passes = new Uint8Array(this.columns.size)
    fill(passes)
    return passes
  }
}
