import { CONTROL } from '../../../components/controls/control-look'
import { readRange, writeRange } from '../wall-address'

interface Props {
  title: string
  value: string
  onChange: (text: string) => void
}

const DAY_MS = 86_400_000
const toDate = (day: number): string => new Date(day * DAY_MS).toISOString().slice(0, 10)

/** Since when, as a day. */
export function WhenBlock({ title, value, onChange }: Props) {
  const { low } = readRange(value)
  const today = Math.floor(Date.now() / DAY_MS)
  const since = (days: number) => onChange(writeRange({ low: today - days, high: null }))
  return (
    <fieldset className="mb-4 min-w-0 break-inside-avoid">
      <legend className="mb-1 text-xs text-quiet">{title} since</legend>
      <input
        type="date"
        value={low === null ? '' : toDate(low)}
        max={toDate(today)}
        aria-label={`${title} since`}
        onChange={event =>
          onChange(event.target.value === '' ? '' : writeRange({ low: Date.parse(event.target.value) / DAY_MS, high: null }))
        }
        className={`${CONTROL} figures h-7 w-full text-xs`}
      />
      <div className="mt-1 flex gap-3 text-xs text-quiet">
        {[
          ['today', 0],
          ['a week', 7],
          ['a month', 30],
        ].map(([word, days]) => (
          <button key={word} type="button" onClick={() => since(Number(days))} className="underline hover:text-ink">
            {word}
          </button>
        ))}
      </div>
    </fieldset>
  )
}

/** "since 3 November 2026" */
export const sinceWord = (value: string): string => {
  const { low } = readRange(value)
  return low === null
    ? ''
    : `since ${new Date(low * DAY_MS).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' })}`
}
