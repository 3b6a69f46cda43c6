import type { SeenColor } from './color-column'
import type { FigureFacet, TermFacet } from './facets'
import { codeWords, splitWords } from './fold-words'
import type { Look } from './look'
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

export function wordsOf({ code, name, terms, places, otherWords }: Findable): ItemWords {
  const wordsIn = (facets: readonly TermFacet[]) => facets.flatMap(f => terms[f] ?? []).flatMap(splitWords)
  return {
    name: [...codeWords(code), ...splitWords(name)],
    tag: wordsIn(SAID_AS_TAGS),
    place: places.flatMap(splitWords),
    other: [...wordsIn(SAID_BESIDE), ...otherWords.flatMap(splitWords)],
  }
}
