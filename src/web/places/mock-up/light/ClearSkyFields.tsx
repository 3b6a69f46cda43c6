import type { Sky } from '#core/mock-up/scene/scene'
import { CONTROL } from '../../../components/controls/control-look'
import { FigureLine } from '../../../components/FigureLine'
import { Line } from '../../../components/Line'

type Clear = NonNullable<Sky['clear']>

interface Props {
  clear: Clear
  onChange: (clear: Clear, gesture: string | null) => void
}

/** A date as fields have it, in UTC. */
const dayOf = (at: string): string => at.slice(0, 10)
const hoursOf = (at: string): number => new Date(at).getUTCHours() + new Date(at).getUTCMinutes() / 60
const MS_AN_HOUR = 3_600_000

/** Hours by the sun: noon is when it stands highest, whatever the clocks of the place say. */
const solarHours = ({ at, longitudeDeg }: Clear): number => (hoursOf(at) + longitudeDeg / 15 + 24) % 24

const sayHours = (hours: number): string => {
  const minutes = Math.round(hours * 60) % 1440
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, '0')}`
}

/** Where and when a clear sky is: place, day, hour by the sun, haze. */
export function ClearSkyFields({ clear, onChange }: Props) {
  const set = (next: Partial<Clear>, gesture: string | null = null) => onChange({ ...clear, ...next }, gesture)
  const onDay = (day: string) => {
    const at = new Date(`${day}T${clear.at.slice(11)}`)
    if (day !== '' && !Number.isNaN(at.getTime())) set({ at: at.toISOString() })
  }
  const onHours = (hours: number) => {
    const moved = (hours - solarHours(clear)) * MS_AN_HOUR
    set({ at: new Date(new Date(clear.at).getTime() + moved).toISOString() }, 'hour of a clear sky')
  }
  return (
    <div className="mb-4 flex flex-col gap-2">
      <FigureLine
        text="Latitude"
        unit="° N"
        digits={3}
        min={-90}
        max={90}
        value={clear.latitudeDeg}
        onSettle={v => v !== null && set({ latitudeDeg: v })}
        className="w-32"
      />
      <FigureLine
        text="Longitude"
        unit="° E"
        digits={3}
        min={-180}
        max={180}
        value={clear.longitudeDeg}
        onSettle={v => v !== null && set({ longitudeDeg: v })}
        className="w-32"
      />
      <Line text="Day">
        <input
          type="date"
          aria-label="Day"
          value={dayOf(clear.at)}
          onChange={event => onDay(event.target.value)}
          className={`${CONTROL} figures w-32`}
        />
      </Line>
      <label className="flex items-center justify-between gap-2">
        <span className="shrink-0 text-quiet">Hour by the sun</span>
        <input
          type="range"
          aria-label="Hour by the sun"
          aria-valuetext={sayHours(solarHours(clear))}
          min={0}
          max={23.75}
          step={0.25}
          value={solarHours(clear)}
          onChange={event => onHours(Number(event.target.value))}
          className="min-w-0 flex-1 accent-ink"
        />
        <span className="figures w-11 text-right text-xs">{sayHours(solarHours(clear))}</span>
      </label>
      <FigureLine
        text="Haze"
        label="Haze, as turbidity"
        digits={1}
        min={1.7}
        max={10}
        value={clear.turbidity}
        onSettle={v => v !== null && set({ turbidity: v })}
        className="w-32"
      />
    </div>
  )
}
