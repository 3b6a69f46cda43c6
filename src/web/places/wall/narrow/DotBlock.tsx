import { useState } from 'react'
import type { FacetValue } from '#shared/contracts/find.contract'
import { DOT_COLORS } from '#shared/contracts/personal.contract'
import { tellProblem } from '../../../components/bulk-words'
import { BARE_CONTROL } from '../../../components/controls/control-look'
import { dotColor } from '../../../components/Dots'
import { useSetDotMeaningMutation } from '../../../state/api'
import { readValues, toggleValue, type WallAddress } from '../wall-address'

interface Props {
  values: readonly FacetValue[]
  address: WallAddress
  meaningOf: (color: number) => string
  onChange: (text: string) => void
}

/** One's own dots, each with the meaning that one writes beside it. */
export function DotBlock({ values, address, meaningOf, onChange }: Props) {
  const chosen = readValues(address.dot)
  const countOf = (value: string) => values.find(v => v.value === value)?.count ?? 0
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">My dots</legend>
      {DOT_COLORS.map(color => (
        <div key={color} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            checked={chosen.includes(String(color))}
            onChange={() => onChange(toggleValue(address.dot, String(color)))}
            aria-label={`Only ${meaningOf(color)}`}
            className="size-3.5 shrink-0"
          />
          <span aria-hidden className="size-3 shrink-0 rounded-full" style={{ backgroundColor: dotColor(color) }} />
          <Meaning color={color} meaning={meaningOf(color)} />
          <span className="figures ml-auto shrink-0 pl-1 text-xs text-quiet">{countOf(String(color)) || ''}</span>
        </div>
      ))}
      {countOf('none') > 0 && values.length > 1 && (
        <label className="flex cursor-pointer items-center gap-2 py-0.5">
          <input
            type="checkbox"
            checked={chosen.includes('none')}
            onChange={() => onChange(toggleValue(address.dot, 'none'))}
            className="size-3.5 shrink-0"
          />
          without a dot
          <span className="figures ml-auto pl-2 text-xs text-quiet">{countOf('none')}</span>
        </label>
      )}
    </fieldset>
  )
}

function Meaning({ color, meaning }: { color: number; meaning: string }) {
  const [setMeaning] = useSetDotMeaningMutation()
  const isUnsaid = meaning === `dot ${color}`
  const [text, setText] = useState<string | null>(null)
  const take = async () => {
    if (text === null) return
    setText(null)
    if (text.trim() === (isUnsaid ? '' : meaning)) return
    const result = await setMeaning({ color, meaning: text })
    if (result.error) tellProblem(result.error)
  }
  return (
    <input
      value={text ?? (isUnsaid ? '' : meaning)}
      placeholder="what it means"
      maxLength={40}
      aria-label={`What dot ${color} means`}
      onChange={event => setText(event.target.value)}
      onBlur={take}
      onKeyDown={event => {
        if (event.key === 'Enter') event.currentTarget.blur()
        if (event.key === 'Escape') setText(null)
      }}
      className={`${BARE_CONTROL} w-full px-1 placeholder:text-quiet/70`}
    />
  )
}
