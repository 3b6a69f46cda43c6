import type { SeenColor } from '../looks/color-column'
import type { Look } from '../looks/look'
import type { FigureFacet, TermFacet } from '../query/facets'
import { codeWords, splitWords } from '../words/fold-words'
import type { ItemWords } from './word-index'

/** Everything by which an item is found. */
export interface Findable {
  id: number
  code: string
  name: string
  terms: Readonly<Partial<Record<TermFacet, readonly string[]>>>
  figures: Readonly<Partial<Record<FigureFacet, number>>>
  palette: readonly SeenColor[]
  /** Null for what was not measured. */
  look: Look | null
  /** Titles of its category and those above. */
  places: readonly string[]
  /** What else it says of itself: how it was delivered, its series. */
  otherWords: readonly string[]
}

/** Facets whose values are words that people type. */
const SAID_AS_TAGS: readonly TermFacet[] = ['tag', 'use', 'botanicalName', 'growth']
const SAID_BESIDE: readonly TermFacet[] = ['maker', 'licence', 'setting', 'sky', 'mapUse']

/** What many items say alike, as a tag, a maker or a category, is cut into words once. */
const known = new Map<string, readonly string[]>()
const MOST_KNOWN = 20_000

function wordsIn(text: string): readonly string[] {
  const found = known.get(text)
  if (found) return found
  if (known.size >= MOST_KNOWN) known.clear()
  const words = splitWords(text)
  known.set(text, words)
  return words
}

export function wordsOf({ code, name, terms, places, otherWords }: Findable): ItemWords {
  const wordsOfFacets = (facets: readonly TermFacet[]) => facets.flatMap(f => terms[f] ?? []).flatMap(wordsIn)
  return {
    name: [...codeWords(code), ...splitWords(name)],
    tag: wordsOfFacets(SAID_AS_TAGS),
    place: places.flatMap(wordsIn),
    other: [...wordsOfFacets(SAID_BESIDE), ...otherWords.flatMap(wordsIn)],
  }
}
