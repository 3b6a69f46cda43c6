import { FIGURE_FACETS, type FigureFacet, type TermFacet } from '#core/find/query/facets'
import type { SortColumn } from '#core/find/query/find-order'
import type { TableRow } from '#shared/contracts/table.contract'
import { FACT_UNITS, formatFact, GIVEN_FACTS, isGivenFact, spellWord } from '#shared/units'
import { KIND_WORDS, STATE_WORDS } from '../../../words/states'
import { FIGURE_WORDS, VALUE_FACETS, valueWord } from '../narrow/facet-words'

/** A column of the wall as a table. */
export interface TableColumn {
  id: string
  title: string
  /** Pixels, to begin with. */
  width: number
  isFigure: boolean
  /** What the wall is ordered by when its head is clicked; null where it cannot be. */
  sort: SortColumn | null
  /** What a person may write in its cells: the name, or a fact by its name; null for what is measured or decided elsewhere. */
  writes: string | null
  /** What stands in a cell; empty for nothing. */
  read: (row: TableRow) => string
  /** The fact that has to be asked for, where it is one. */
  fact: string | null
}

/** In the place of a fact's name: the item's own. */
export const NAME = 'name'

/** Facts that are a column already, as something that the wall is narrowed by. */
const WRITTEN_FACETS: Partial<Record<TermFacet, string>> = {
  maker: 'maker',
  licence: 'licence',
  botanicalName: 'botanicalName',
  tag: 'tags',
  use: 'uses',
}
const SHOWN_AS_FACETS = new Set([
  ...Object.values(WRITTEN_FACETS),
  ...['widthMm', 'widthM', 'heightM', 'depthM', 'triangles', 'lrv', 'meanRoughness', 'sunElevationDeg', 'colorTemperatureK'],
  ...['luminousFluxLm', 'beamAngleDeg', 'setting', 'sky', 'widthPx', 'lampCctK'],
  ...['mapUse', 'mapTiles', 'mapChannels'],
])

const DAY_MS = 86_400_000
const DAYS = new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
const DAY_TITLES: Partial<Record<FigureFacet, string>> = { addedDay: 'Added', changedDay: 'Changed' }

function figureColumn(facet: FigureFacet): TableColumn {
  const title = DAY_TITLES[facet]
  const words = title === undefined ? FIGURE_WORDS[facet as keyof typeof FIGURE_WORDS] : null
  return {
    id: facet,
    title: title ?? words?.title ?? facet,
    width: 110,
    isFigure: true,
    sort: facet,
    writes: null,
    fact: null,
    read: ({ figures }) => {
      const value = figures[facet]
      if (value === undefined) return ''
      return words ? words.format(value) : DAYS.format(value * DAY_MS)
    },
  }
}

const termColumn = ([facet, title]: (typeof VALUE_FACETS)[number]): TableColumn => ({
  id: facet,
  title,
  width: 150,
  isFigure: false,
  sort: facet as SortColumn,
  writes: WRITTEN_FACETS[facet as TermFacet] ?? null,
  fact: null,
  read: ({ terms }) => (terms[facet as TermFacet] ?? []).map(value => valueWord(facet, value)).join(', '),
})

const factColumn = (name: string): TableColumn => ({
  id: `fact:${name}`,
  title: FACT_UNITS[name]?.label ?? sentence(spellWord(name)),
  width: 140,
  isFigure: false,
  sort: null,
  writes: isGivenFact(name) ? name : null,
  fact: name,
  read: ({ facts }) => (facts[name] === undefined ? '' : formatFact(name, facts[name])),
})

const sentence = (words: string): string => words.charAt(0).toUpperCase() + words.slice(1)

/** Every column that can be chosen. @param known names of facts that items here have @param titleOf a category's title */
export function listColumns(known: readonly string[], titleOf: (path: string) => string): TableColumn[] {
  const plain = { isFigure: false, writes: null, fact: null }
  return [
    { ...plain, id: 'code', title: 'Code', width: 168, sort: 'code', read: ({ chip }) => chip.code },
    { ...plain, id: NAME, title: 'Name', width: 230, sort: 'name', writes: NAME, read: ({ chip }) => chip.name },
    { ...plain, id: 'category', title: 'Category', width: 150, sort: 'category', read: ({ chip }) => titleOf(chip.category) },
    { ...plain, id: 'kind', title: 'Kind', width: 100, sort: 'kind', read: ({ chip }) => KIND_WORDS[chip.kind].one },
    { ...plain, id: 'state', title: 'State', width: 90, sort: 'state', read: ({ chip }) => STATE_WORDS[chip.state] },
    ...VALUE_FACETS.filter(([facet]) => !['kind', 'state', 'project', 'mine', 'desk'].includes(facet)).map(termColumn),
    ...FIGURE_FACETS.map(figureColumn),
    ...[...new Set([...GIVEN_FACTS, ...known])].filter(name => !SHOWN_AS_FACETS.has(name)).map(factColumn),
  ]
}

export const USUAL_COLUMNS: readonly string[] = [
  'code',
  'name',
  'category',
  'state',
  'maker',
  'widthMm',
  'licence',
  'tag',
  'changedDay',
]
