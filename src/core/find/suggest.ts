import type { FindIndex } from './find-index'
import type { TermFacet } from './query/facets'
import { ANYTHING, type Asker, type FindQuery, isWithin, withAncestors } from './query/find-query'
import { readFigure, type SaidFigure } from './query/read-figures'
import type { FoundView } from './views/found-view'
import { otherForms, splitWords } from './words/fold-words'

export interface SuggestedValue {
  facet: TermFacet
  value: string
  /** Of the view, with the words before it. */
  count: number
}

export interface Suggestions {
  /** What was typed before the word that is being typed; it stays when one of the values is taken. */
  before: string
  /** Whole words for what is being typed, or meant by it. */
  words: { word: string; count: number }[]
  values: SuggestedValue[]
  /** Ids of items, the likeliest first. */
  items: number[]
  figure: (SaidFigure & { count: number }) | null
  /** Items that what was typed finds here, and without any other filter. */
  here: number
  everywhere: number
}

/** Facets whose values people know by name. */
const NAMED: readonly TermFacet[] = [
  'category',
  'maker',
  'tag',
  'use',
  'botanicalName',
  'growth',
  'sky',
  'setting',
  'mapUse',
  'licence',
]
const MOST = { words: 5, values: 3, items: 5 }

/**
 * What somebody who types may mean, counted in the view they stand in.
 * @param titles what the values of a facet are called, where not by themselves
 * @param find where views are kept, so that the one on the wall is not worked out twice
 */
export function suggest(
  index: FindIndex,
  query: FindQuery,
  asker: Asker,
  titles: Readonly<Partial<Record<TermFacet, ReadonlyMap<string, string>>>>,
  find: (query: FindQuery) => FoundView = q => index.find(q, asker),
): Suggestions {
  const typed = query.words.trim()
  const cut = typed.lastIndexOf(' ') + 1
  const [before, word] = [typed.slice(0, cut).trim(), splitWords(typed.slice(cut)).at(-1) ?? '']
  const said = readFigure(typed)
  const here = find(query)
  const found = {
    before,
    here: here.total,
    everywhere: find({ ...ANYTHING, words: query.words }).total,
    // What is typed is a bound already; taken as a filter it stands by itself.
    figure: said && { ...said, count: find(withBound(query, said)).total },
  }
  if (word === '') return { ...found, words: [], values: [], items: [] }
  const base = find({ ...query, words: before })
  const synonyms = index.vocabulary.expand([word], 0)?.others.flatMap(o => (o.length === 1 ? [o[0]] : [])) ?? []
  const values = NAMED.flatMap(facet => {
    const meant = index.namedValues(facet, titles[facet]).meantBy(word, [...otherForms(word), ...synonyms])
    if (meant.size === 0) return []
    const places = [...meant]
    const counts =
      facet === 'category'
        ? withAncestors(base.countSome(facet, path => places.some(place => isWithin(path, place))))
        : base.countSome(facet, value => meant.has(value))
    return [...counts]
      .filter(([value]) => meant.has(value))
      .map(([value, count]) => ({ facet, value, count }))
      .sort((a, b) => b.count - a.count)
      .slice(0, MOST.values)
  })
  return { ...found, words: suggestWords(index, base, word), values, items: here.page(0, MOST.items) }
}

const withBound = (query: FindQuery, { facet, low, high, rest }: SaidFigure): FindQuery => ({
  ...query,
  words: rest,
  figures: { ...query.figures, [facet]: { low, high } },
})

/** Words that go on as typed; where there are none, those that may have been meant. */
function suggestWords(index: FindIndex, base: FoundView, word: string): Suggestions['words'] {
  const count = (words: readonly string[]) => base.countCommonest(words, MOST.words)
  const going = count(index.columns.words.listStarting(word, MOST_STARTING).filter(w => !/^\d|[a-z]\d/.test(w)))
  return going.length > 0 ? going : count(index.columns.words.findAlike(word, index.vocabulary))
}
const MOST_STARTING = 400
