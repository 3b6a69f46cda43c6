import { X } from 'lucide-react'
import type { Facets } from '#shared/contracts/find.contract'
import { readRange, readValues, toggleValue, type WallAddress, type WallKey } from '../wall-address'
import { DRAWN_FIGURES, FIGURE_WORDS, rangeWord, VALUE_FACETS, valueWord } from './facet-words'
import { sinceWord } from './WhenBlock'

export interface Filter {
  key: WallKey
  /** What it is about, and what it asks. */
  title: string
  text: string
  /** The address's text for its key without it. */
  without: string
  /** Of a colour. */
  swatch?: string
}

const IN_THE_LINE: readonly string[] = ['kind', 'state', 'library']

/** One kind, state or library alone stands in the line of controls. */
export const isInTheLine = ({ key }: Filter, address: WallAddress): boolean =>
  IN_THE_LINE.includes(key) && readValues(address[key]).length === 1

/** What narrows the view, one by one; words and the category stand in their own places. */
export function listFilters(address: WallAddress, facets: Facets | null, meaningOf?: (color: number) => string): Filter[] {
  const filters: Filter[] = []
  for (const [facet, title] of VALUE_FACETS)
    for (const value of readValues(address[facet])) {
      const known = facets?.terms[facet]?.find(v => v.value === value)
      filters.push({
        key: facet,
        title,
        text: facet === 'dot' && meaningOf && value !== 'none' ? meaningOf(Number(value)) : valueWord(facet, value, known?.title),
        without: toggleValue(address[facet], value),
      })
    }
  for (const text of readValues(address.color)) {
    const [hex] = text.split('~')
    filters.push({ key: 'color', title: 'Colour', text: `#${hex}`, without: toggleValue(address.color, text), swatch: `#${hex}` })
  }
  for (const facet of DRAWN_FIGURES)
    if (address[facet] !== '')
      filters.push({
        key: facet,
        title: FIGURE_WORDS[facet].title,
        text: rangeWord(facet, readRange(address[facet])),
        without: '',
      })
  if (address.addedDay) filters.push({ key: 'addedDay', title: 'Added', text: sinceWord(address.addedDay), without: '' })
  if (address.changedDay) filters.push({ key: 'changedDay', title: 'Changed', text: sinceWord(address.changedDay), without: '' })
  if (address.usableIn) filters.push({ key: 'usableIn', title: 'Usable in', text: address.usableIn, without: '' })
  return filters
}

interface Props {
  filters: readonly Filter[]
  onChange: (patch: Partial<WallAddress>) => void
}

export function FiltersInForce({ filters, onChange }: Props) {
  if (filters.length === 0) return null
  return (
    <ul aria-label="Filters in force" className="flex shrink-0 flex-wrap gap-1.5 px-6 pb-2">
      {filters.map(({ key, title, text, without, swatch }) => (
        <li key={`${key} ${text}`}>
          <button
            type="button"
            onClick={() => onChange({ [key]: without })}
            aria-label={`Without ${title}: ${text}`}
            title="Without this"
            className="inline-flex h-6 items-center gap-1.5 rounded-sm border border-edge bg-mount pr-1 pl-2 text-xs hover:border-ink"
          >
            <span className="text-quiet">{title}</span>
            {swatch && <span className="size-3 border border-edge" style={{ backgroundColor: swatch }} />}
            <span className="font-medium">{text}</span>
            <X aria-hidden className="size-3 text-quiet" />
          </button>
        </li>
      ))}
    </ul>
  )
}
