import { z } from 'zod'
import { FIGURE_FACETS, TERM_FACETS } from '#core/find/query/facets'
import { GROUPS, ORDERS, SORTS } from '#core/find/query/find-order'
import { FINDING_CODES } from '#core/findings/finding'
import { ITEM_KINDS } from '#core/standard/categories'
import { chipSchema, STATES } from './chip.contract'

/** Between several values in one place of an address. */
export const BETWEEN = '|'
const MOST_VALUES = 60

const listOf = <T extends z.ZodType<string, string>>(one: T) =>
  z
    .string()
    .max(4000)
    .default('')
    .transform(text => text.split(BETWEEN).filter(Boolean))
    .pipe(z.array(one).max(MOST_VALUES))

const name = z.string().max(200)

/** A range as "from..to" in the unit of the figure; either end may be left open. */
const range = z
  .string()
  .regex(/^(-?\d+(\.\d+)?)?(\.\.(-?\d+(\.\d+)?)?)?$/, 'A range is written from..to, such as 200..2200 or ..2200.')
  .default('')
  .transform(text => {
    const [low, high] = text.split('..')
    return { low: low ? Number(low) : null, high: high ? Number(high) : null }
  })

/** A colour as rrggbb, and how far from it another may be: a03020~8. */
const color = z.string().regex(/^[0-9a-f]{6}(~\d{1,2}(\.\d)?)?$/i, 'A colour is written as six hexadecimal digits.')

const figures = Object.fromEntries(FIGURE_FACETS.map(facet => [facet, range])) as Record<
  (typeof FIGURE_FACETS)[number],
  typeof range
>

/** Facets of sets that the asker has: projects they see, their dots, what they looked at and used, what lies on their desks. */
export const SET_FACETS = ['project', 'dot', 'mine', 'desk'] as const
export type SetFacet = (typeof SET_FACETS)[number]

/** What narrows the wall; the address bar holds exactly this, as text. */
export const narrowingSchema = z.object({
  words: z.string().max(200).default(''),
  kind: listOf(z.enum(ITEM_KINDS)),
  category: listOf(z.string().regex(/^[a-zA-Z0-9_.]*$/)),
  state: listOf(z.enum(STATES)),
  library: listOf(z.string().max(60)),
  maker: listOf(name),
  tag: listOf(name),
  use: listOf(name),
  licence: listOf(name),
  has: listOf(name),
  setting: listOf(name),
  sky: listOf(name),
  mapUse: listOf(name),
  mapTiles: listOf(name),
  mapChannels: listOf(name),
  botanicalName: listOf(name),
  growth: listOf(name),
  /** Only what a check has found this in. */
  finding: listOf(z.enum(FINDING_CODES)),
  author: listOf(name),
  /** Codes of projects in which an item is pinned, or none. */
  project: listOf(name),
  /** Colours of the asker's own dots, or none. */
  dot: listOf(z.string().max(4)),
  mine: listOf(z.enum(['lookedAt', 'used'])),
  /** How it lies on the asker's desks, or that it does on none. */
  desk: listOf(z.enum(['here', 'older', 'damaged', 'none'])),
  /** The code of a project in which an item may be used. */
  usableIn: z.string().max(60).default(''),
  ...figures,
  color: listOf(color),
  /** Codes of items, or what a picture looks like, to be like. */
  like: listOf(z.string().max(600)),
  /** How much each side of it counts, such as color:3,pattern:0; 1 where nothing is said. */
  likeWeights: z
    .string()
    .regex(/^([a-z]+:\d(\.\d+)?(,|$))*$/)
    .default('')
    .transform(text =>
      Object.fromEntries(
        text
          .split(',')
          .filter(Boolean)
          .map(part => [part.split(':')[0], Number(part.split(':')[1])]),
      ),
    ),
  order: z.enum([...ORDERS, ...SORTS]).default('best'),
  /** What the view is put together by. */
  group: z.enum(['', ...GROUPS]).default(''),
})
export type Narrowing = z.output<typeof narrowingSchema>
/** The same as the address holds it. */
export type NarrowingText = { [K in keyof Narrowing]: string }

/** A page of a whole view of the wall. */
export const wallQuerySchema = narrowingSchema.extend({
  /** Whether counts are wanted with it; who still types does not look at them. */
  counts: z.enum(['yes', 'no']).default('yes'),
  offset: z.coerce.number().int().min(0).max(1_000_000).default(0),
  limit: z.coerce.number().int().min(1).max(240).default(120),
})
export type WallQuery = z.output<typeof wallQuerySchema>

export const facetValueSchema = z.object({
  value: z.string(),
  /** What it is called, where not by itself. */
  title: z.string(),
  count: z.number(),
})
export type FacetValue = z.infer<typeof facetValueSchema>

export const histogramSchema = z.object({
  /** Where bins begin, and where the last one ends: one more than counts. */
  edges: z.array(z.number()),
  counts: z.array(z.number()),
  /** Items of the view without the figure. */
  unknown: z.number(),
})
export type HistogramView = z.infer<typeof histogramSchema>

export const facetsSchema = z.object({
  /** Items of the view under each category, itself and all below. */
  categories: z.record(z.string(), z.number()),
  /** The most frequent values of each facet, and those chosen; each facet leaves its own choice out of its counts. */
  terms: z.partialRecord(z.enum([...TERM_FACETS, ...SET_FACETS]), z.array(facetValueSchema)),
  /** How many values a facet has of which not all are there. */
  more: z.partialRecord(z.enum([...TERM_FACETS, ...SET_FACETS]), z.number()),
  figures: z.partialRecord(z.enum(FIGURE_FACETS), histogramSchema),
})
export type Facets = z.infer<typeof facetsSchema>

/** What may help where nothing was found. */
export const nothingFoundSchema = z.object({
  /** What stands in the way, and how many there are without it alone: a facet, `word:` with the word, or `color:` with its place. */
  drops: z.array(z.object({ key: z.string(), count: z.number() })),
  /** Words that are like those typed. */
  words: z.array(z.object({ typed: z.string(), word: z.string(), count: z.number() })),
  /** What answers most of what was asked. */
  nearest: z.array(chipSchema),
})
export type NothingFound = z.infer<typeof nothingFoundSchema>

export const wallSchema = z.object({
  total: z.number(),
  chips: z.array(chipSchema),
  /** Beside each chip, where things to be like, or colours, were asked for. */
  likeness: z
    .array(
      z
        .object({
          unlike: z.number(),
          deltaE: z.number().nullable(),
          differences: z.array(z.string()),
          /** Of a colour: how much of the area is within what it may differ by. */
          share: z.number().optional(),
        })
        .nullable(),
    )
    .nullable(),
  /** With the first page, where the view is put together by something: each group in its order, with how many it has. */
  groups: z.array(facetValueSchema.omit({ title: true })).nullable(),
  /** With the first page; counts are the same for all. */
  facets: facetsSchema.nullable(),
  /** Words that were taken for others, because nothing is called what was typed. */
  takenFor: z.array(z.object({ typed: z.string(), meant: z.string() })),
  nothing: nothingFoundSchema.nullable(),
})
export type WallView = z.infer<typeof wallSchema>

export const suggestionsSchema = z.object({
  /** What was typed before the word that is being typed. */
  before: z.string(),
  words: z.array(z.object({ word: z.string(), count: z.number() })),
  values: z.array(facetValueSchema.extend({ facet: z.enum(TERM_FACETS) })),
  items: z.array(chipSchema),
  figure: z
    .object({
      facet: z.enum(FIGURE_FACETS),
      low: z.number().nullable(),
      high: z.number().nullable(),
      rest: z.string(),
      count: z.number(),
    })
    .nullable(),
  here: z.number(),
  everywhere: z.number(),
})
export type SuggestionsView = z.infer<typeof suggestionsSchema>

/** Values of one facet whose name begins with or holds some letters. */
export const facetValuesQuerySchema = narrowingSchema.extend({
  facet: z.enum(TERM_FACETS),
  letters: z.string().max(60).default(''),
})

export const MOST_COLOR_POINTS = 5000

/** Colours of a view, each at its place: the largest colour of every item that has one. */
export const colorMapSchema = z.object({
  /** Items of the view that have none. */
  colorless: z.number(),
  /** Items with a colour that are too many to be drawn; the first in order are. */
  beyond: z.number(),
  points: z.array(
    z.object({
      id: z.number(),
      code: z.string(),
      name: z.string(),
      /** CIELAB of D65: lightness 0..100, chroma, hue in degrees. */
      lightness: z.number(),
      chroma: z.number(),
      hueDeg: z.number(),
      /** For the screen, as #rrggbb. */
      hex: z.string(),
    }),
  ),
})
export type ColorMap = z.infer<typeof colorMapSchema>
