import type { Vec3 } from '../../math/vec3'
import type { Look, LookWeights } from '../looks/look'
import type { FigureFacet, TermFacet } from './facets'
import type { Group, Order } from './find-order'

export interface FigureRange {
  low: number | null
  high: number | null
}

export interface ColorWish {
  /** Linear Rec.709. */
  color: Vec3
  /** ΔE00 up to which a colour is taken for it. */
  tolerance: number
}

/** The one value of a set facet that means: in none of its sets. */
export const IN_NONE = 'none'

/** Things to be like: each of the kind of its item, or of a picture. */
export interface LikeWish {
  looks: readonly Look[]
  /** Only of this kind. */
  kind: string
  weights: LookWeights
}

export interface FindQuery {
  words: string
  /** Any of the values of a facet will do; of a category, whatever lies in it. */
  terms: Readonly<Partial<Record<TermFacet, readonly string[]>>>
  figures: Readonly<Partial<Record<FigureFacet, FigureRange>>>
  /** All of them. */
  colors: readonly ColorWish[]
  like: LikeWish | null
  /** Sets that the asker has besides, such as dots or projects: by facet, any of the chosen. */
  sets: Readonly<Record<string, readonly string[]>>
  order: Order
  /** What it is put together by, in that order within; empty for nothing. */
  group: Group | ''
}

export const ANYTHING: FindQuery = {
  words: '',
  terms: {},
  figures: {},
  colors: [],
  like: null,
  sets: {},
  order: 'best',
  group: '',
}

/** What the asker may see, and their own sets of it. */
export interface Asker {
  /** Values of the facet `library`. Whatever lies in another is as if it were not there. */
  libraries: ReadonlySet<string>
  /** Licences that do not let things out for what is asked; left out where it is not asked. Whatever comes under one is not there either. */
  barredLicences?: ReadonlySet<string>
  /** Ids of items by value, by facet. */
  sets: Readonly<Record<string, ReadonlyMap<string, readonly number[]>>>
}

/** Whether a category is another or lies below it. */
export const isWithin = (category: string, ancestor: string): boolean =>
  ancestor === '' || category === ancestor || category.startsWith(`${ancestor}.`)

/** Counts of categories with what lies in those below them. */
export function withAncestors(counts: ReadonlyMap<string, number>): Map<string, number> {
  const all = new Map<string, number>()
  for (const [path, count] of counts)
    for (let end = path.indexOf('.'); ; end = path.indexOf('.', end + 1)) {
      const place = end < 0 ? path : path.slice(0, end)
      all.set(place, (all.get(place) ?? 0) + count)
      if (end < 0) break
    }
  return all
}
