import { skipToken } from '@reduxjs/toolkit/query/react'
import { useState } from 'react'
import { type FacetValue, SET_FACETS, type SetFacet } from '#shared/contracts/find.contract'
import { CONTROL } from '../../../components/controls/control-look'
import { useListFacetValuesQuery } from '../../../state/api'
import { readValues, setPart, toggleValue, type WallAddress } from '../wall-address'
import { type ValueFacet, valueWord } from './facet-words'

interface Props {
  facet: Exclude<ValueFacet, 'category'>
  title: string
  values: readonly FacetValue[]
  /** How many there are in all, where not all are listed. */
  more: number | undefined
  address: WallAddress
  onChange: (text: string) => void
}

const SHOWN_AT_FIRST = 6
const isSetFacet = (facet: ValueFacet): facet is SetFacet => (SET_FACETS as readonly string[]).includes(facet)

/** Values of one facet with their counts, any of which may be chosen. */
export function TermBlock({ facet, title, values, more, address, onChange }: Props) {
  const [isLong, setLong] = useState(false)
  const [letters, setLetters] = useState('')
  const chosen = readValues(address[facet])
  // What the asker has of their own is never long.
  const searched = isSetFacet(facet) ? null : facet
  const isSearched = isLong && more !== undefined && searched !== null
  const { data: found } = useListFacetValuesQuery(
    isSearched && letters !== '' ? { ...setPart(address), facet: searched, letters } : skipToken,
  )
  const listed = isSearched && letters !== '' ? (found ?? []) : values
  // What is chosen stays in sight, wherever it stands in the order.
  const shown = isLong ? listed : listed.filter((v, place) => place < SHOWN_AT_FIRST || chosen.includes(v.value))
  const hidden = (more ?? listed.length) - shown.length
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">{title}</legend>
      {isSearched && (
        <input
          type="search"
          value={letters}
          onChange={event => setLetters(event.target.value)}
          placeholder={`Among ${more}`}
          aria-label={`${title}: find a value`}
          className={`${CONTROL} mb-1 h-7 w-full`}
        />
      )}
      <div className={isLong ? 'max-h-52 overflow-auto' : ''}>
        {shown.map(({ value, title: name, count }) => (
          <label key={value} className="flex cursor-pointer items-center gap-2 rounded-sm py-0.5 hover:bg-mount">
            <input
              type="checkbox"
              checked={chosen.includes(value)}
              onChange={() => onChange(toggleValue(address[facet], value))}
              className="size-3.5 shrink-0"
            />
            <span
              className={`min-w-0 truncate ${chosen.includes(value) ? 'font-medium' : ''}`}
              title={valueWord(facet, value, name)}
            >
              {valueWord(facet, value, name)}
            </span>
            <span className="figures ml-auto shrink-0 pl-2 text-xs text-quiet">{count}</span>
          </label>
        ))}
        {isSearched && letters !== '' && found?.length === 0 && <p className="py-1 text-quiet">None of them.</p>}
      </div>
      {(hidden > 0 || isLong) && (
        <button type="button" onClick={() => setLong(!isLong)} className="mt-0.5 text-xs text-quiet underline hover:text-ink">
          {isLong ? 'Fewer' : `${hidden} more`}
        </button>
      )}
    </fieldset>
  )
}
