import { FIGURE_FACETS, TERM_FACETS, type TermFacet } from '#core/find/query/facets'
import { IN_NONE, withAncestors } from '#core/find/query/find-query'
import type { FoundView, Histogram } from '#core/find/views/found-view'
import { type Facets, type FacetValue, type Narrowing, SET_FACETS } from '#shared/contracts/find.contract'
import type { KnownAsker } from '../platform/context'

/** Of a long facet these go along; the others are asked for by their letters. */
const MOST_VALUES = 12

/** Counts as the wall shows them: of each facet the most frequent values and those that are chosen. */
export function describeFacets(view: FoundView, given: Narrowing, asker: KnownAsker): Facets {
  const { terms, figures, sets } = view.facets()
  const described: Facets = {
    categories: Object.fromEntries(withAncestors(terms.category ?? new Map())),
    terms: {},
    more: {},
    figures: {},
  }
  const add = (facet: TermFacet | (typeof SET_FACETS)[number], counts: ReadonlyMap<string, number>) => {
    const chosen: readonly string[] = given[facet]
    const all = toValues(facet, counts, asker)
    for (const value of chosen)
      if (!all.some(v => v.value === value)) all.push({ value, title: titleOf(facet, value, asker), count: 0 })
    const kept = all.filter((v, place) => place < MOST_VALUES || chosen.includes(v.value))
    // What all of the view has in common tells nothing apart.
    const tellsApart = kept.length > 1 || chosen.length > 0 || (kept.length === 1 && kept[0].count < view.total)
    if (!tellsApart) return
    described.terms[facet] = kept
    if (all.length > kept.length) described.more[facet] = all.length
  }
  for (const facet of TERM_FACETS) if (facet !== 'category') add(facet, terms[facet] ?? new Map())
  for (const facet of SET_FACETS) {
    const counts = new Map(sets[facet])
    // What one has looked at and used says nothing of the rest.
    if (facet === 'mine') counts.delete(IN_NONE)
    if ([...counts.keys()].some(value => value !== IN_NONE)) add(facet, counts)
  }
  for (const facet of FIGURE_FACETS) {
    const histogram = figures[facet]
    const isChosen = given[facet].low !== null || given[facet].high !== null
    if (histogram && (isChosen || tellsFiguresApart(histogram))) described.figures[facet] = histogram
  }
  return described
}

const tellsFiguresApart = ({ counts, unknown }: Histogram): boolean => counts.filter(c => c > 0).length > 1 || unknown > 0

/** Values of a facet with what they are called, the most frequent first. */
export const toValues = (
  facet: TermFacet | (typeof SET_FACETS)[number],
  counts: ReadonlyMap<string, number>,
  asker: KnownAsker,
): FacetValue[] =>
  [...counts]
    .map(([value, count]) => ({ value: outsideValue(facet, value, asker), title: titleOf(facet, value, asker), count }))
    .sort((a, b) => b.count - a.count || a.title.localeCompare(b.title))

/** Libraries are known by their keys outside. */
const outsideValue = (facet: string, value: string, { libraryNames }: KnownAsker): string =>
  facet === 'library' ? (libraryNames.get(value)?.key ?? value) : value

function titleOf(facet: string, value: string, { libraryNames, projects }: KnownAsker): string {
  if (facet === 'library')
    return libraryNames.get(value)?.title ?? [...libraryNames.values()].find(l => l.key === value)?.title ?? value
  if (value === IN_NONE && facet === 'dot') return 'without a dot'
  if (facet === 'project') return value === IN_NONE ? 'in no project' : `${value} ${projects.get(value)?.title ?? ''}`.trim()
  return value
}
