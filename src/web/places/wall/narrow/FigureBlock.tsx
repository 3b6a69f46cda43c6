import { useEffect, useState } from 'react'
import type { HistogramView } from '#shared/contracts/find.contract'
import { CONTROL } from '../../../components/controls/control-look'
import { readRange, type TextRange, writeRange } from '../wall-address'
import { type DrawnFigure, FIGURE_WORDS } from './facet-words'

interface Props {
  facet: DrawnFigure
  histogram: HistogramView
  value: string
  onChange: (text: string) => void
}

const HEIGHT = 34

/** A figure as a small histogram with two handles, and the same two ends typed. */
export function FigureBlock({ facet, histogram, value, onChange }: Props) {
  const { title, format } = FIGURE_WORDS[facet]
  const { edges, counts } = histogram
  const most = Math.max(...counts, 1)
  const range = readRange(value)
  const last = counts.length
  // While a handle is dragged only the drawing follows; the view is asked for when it is let go.
  const [dragged, setDragged] = useState<[number, number] | null>(null)
  const placeOf = (figure: number | null, open: number) => {
    if (figure === null) return open
    const at = edges.findIndex(edge => edge >= figure - 1e-9)
    return at < 0 ? last : at
  }
  const [from, to] = dragged ?? [placeOf(range.low, 0), placeOf(range.high, last)]
  const settle = ([a, b]: [number, number]) => {
    setDragged(null)
    onChange(writeRange({ low: a <= 0 ? null : tidy(edges[a]), high: b >= last ? null : tidy(edges[b]) }))
  }
  const handle = (which: 0 | 1, name: string) => (
    <input
      type="range"
      min={0}
      max={last}
      value={which === 0 ? from : to}
      aria-label={`${title}: ${name}`}
      aria-valuetext={format(edges[which === 0 ? from : to])}
      onChange={event => {
        const place = Number(event.target.value)
        setDragged(which === 0 ? [Math.min(place, to), to] : [from, Math.max(place, from)])
      }}
      onPointerUp={() => dragged && settle(dragged)}
      onKeyUp={() => dragged && settle(dragged)}
      onBlur={() => dragged && settle(dragged)}
      className="two-handled absolute inset-x-0 bottom-0 w-full"
    />
  )
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">{title}</legend>
      <div className="relative pb-2">
        <svg viewBox={`0 0 ${last} ${HEIGHT}`} preserveAspectRatio="none" aria-hidden="true" className="block h-9 w-full">
          {counts.map((count, bin) => {
            // The root keeps what is rare in sight.
            const height = count === 0 ? 0 : Math.max(2, HEIGHT * Math.sqrt(count / most))
            return (
              <rect
                key={edges[bin]}
                x={bin + 0.08}
                width={0.84}
                y={HEIGHT - height}
                height={height}
                className={bin >= from && bin < to ? 'fill-ink' : 'fill-edge/50'}
              />
            )
          })}
        </svg>
        {handle(0, 'least')}
        {handle(1, 'most')}
      </div>
      <div className="mt-1 flex items-center gap-1.5">
        <End facet={facet} name="least" range={range} end="low" onChange={onChange} hint={format(edges[0])} />
        <span className="text-quiet">to</span>
        <End facet={facet} name="most" range={range} end="high" onChange={onChange} hint={format(edges[last])} />
      </div>
    </fieldset>
  )
}

interface EndProps {
  facet: DrawnFigure
  name: string
  range: TextRange
  end: 'low' | 'high'
  hint: string
  onChange: (text: string) => void
}

function End({ facet, name, range, end, hint, onChange }: EndProps) {
  const { title, format, parse, example } = FIGURE_WORDS[facet]
  const figure = range[end]
  const shown = figure === null ? '' : format(figure)
  const [text, setText] = useState(shown)
  useEffect(() => setText(shown), [shown])
  const parsed = parse(text)
  const isWrong = text !== '' && text !== shown && parsed === null
  const take = () => {
    if (text === shown) return
    if (text === '') onChange(writeRange({ ...range, [end]: null }))
    else if (parsed !== null) onChange(writeRange({ ...range, [end]: tidy(parsed) }))
  }
  return (
    <input
      value={text}
      onChange={event => setText(event.target.value)}
      onBlur={take}
      onKeyDown={event => event.key === 'Enter' && take()}
      placeholder={hint}
      aria-label={`${title}: ${name}, such as ${example}`}
      aria-invalid={isWrong}
      title={isWrong ? `A figure such as ${example}` : undefined}
      className={`${CONTROL} figures h-7 w-full text-xs ${isWrong ? 'border-ink border-dashed' : ''}`}
    />
  )
}

/** Four digits are enough for an end, and keep the address short. */
const tidy = (value: number): number => Number(value.toPrecision(4))
