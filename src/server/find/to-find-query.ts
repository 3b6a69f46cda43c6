import { fromHex } from '#core/color/srgb'
import { FIGURE_FACETS, TERM_FACETS } from '#core/find/query/facets'
import type { ColorWish, FindQuery, LikeWish } from '#core/find/query/find-query'
import { type Narrowing, SET_FACETS } from '#shared/contracts/find.contract'
import { followRetired } from '../house/categories'
import type { KnownAsker } from '../platform/context'

/** ΔE00 up to which a colour is taken for another where nobody says: alike at a glance, not side by side. */
const USUAL_TOLERANCE = 8

/** What narrows the wall, as the search in memory asks for it. */
export function toFindQuery(
  given: Narrowing,
  { libraryNames }: Pick<KnownAsker, 'libraryNames'>,
  retired: ReadonlyMap<string, string>,
  like: LikeWish | null = null,
): FindQuery {
  const idOf = (key: string) => [...libraryNames].find(([, l]) => l.key === key)?.[0] ?? NO_LIBRARY
  const values = {
    ...given,
    category: given.category.map(path => followRetired(path, retired)),
    library: given.library.map(idOf),
  }
  return {
    words: given.words,
    // What is not asked for is not there, so that two who ask the same ask for one view.
    terms: Object.fromEntries(TERM_FACETS.flatMap(facet => (values[facet].length > 0 ? [[facet, values[facet]]] : []))),
    figures: Object.fromEntries(
      FIGURE_FACETS.flatMap(facet => (given[facet].low !== null || given[facet].high !== null ? [[facet, given[facet]]] : [])),
    ),
    colors: given.color.map(readColor),
    like,
    sets: Object.fromEntries(SET_FACETS.flatMap(facet => (given[facet].length > 0 ? [[facet, given[facet]]] : []))),
    order: given.order,
    group: given.group,
  }
}

/** No library has it; whoever asks for one that they may not see finds nothing. */
const NO_LIBRARY = '0'

function readColor(text: string): ColorWish {
  const [hex, tolerance] = text.split('~')
  return { color: fromHex(`#${hex}`) ?? [0, 0, 0], tolerance: Number(tolerance ?? USUAL_TOLERANCE) || USUAL_TOLERANCE }
}
