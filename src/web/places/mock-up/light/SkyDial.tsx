import { type KeyboardEvent, type PointerEvent, useRef } from 'react'

interface Props {
  /** Where the sky's sun stands before it is turned, clockwise from north; null where it has none. */
  sun: { azimuthDeg: number; elevationDeg: number } | null
  turnDeg: number
  /** @param isLast the drag is over */
  onTurn: (turnDeg: number, isLast: boolean) => void
}

const SIZE = 116
const MIDDLE = SIZE / 2
const RADIUS = 46

export const wrapTurn = (degrees: number): number => ((((degrees + 180) % 360) + 360) % 360) - 180

/** The sky seen from above: north up, the horizon its rim, the zenith its middle. Dragged round, or by arrows. */
export function SkyDial({ sun, turnDeg, onTurn }: Props) {
  const drag = useRef<{ from: number; turn: number } | null>(null)
  // A turn is counter-clockwise as seen from above, an azimuth clockwise.
  const azimuth = ((sun?.azimuthDeg ?? 0) - turnDeg) * (Math.PI / 180)
  const reach = sun ? RADIUS * (1 - Math.max(0, sun.elevationDeg) / 90) : RADIUS
  const [x, y] = [MIDDLE + reach * Math.sin(azimuth), MIDDLE - reach * Math.cos(azimuth)]
  const angleAt = (event: PointerEvent) => {
    const { left, top, width } = event.currentTarget.getBoundingClientRect()
    const half = width / 2
    return (Math.atan2(event.clientX - left - half, half - (event.clientY - top)) * 180) / Math.PI
  }
  const onKeyDown = (event: KeyboardEvent) => {
    const step = event.shiftKey ? 1 : 5
    const by = event.key === 'ArrowLeft' ? step : event.key === 'ArrowRight' ? -step : 0
    if (by === 0) return
    event.preventDefault()
    event.stopPropagation()
    onTurn(wrapTurn(turnDeg + by), true)
  }
  return (
    <div
      role="slider"
      aria-label="Turn of the sky"
      aria-valuenow={Math.round(turnDeg)}
      aria-valuemin={-180}
      aria-valuemax={180}
      aria-valuetext={
        sun ? `sun at ${Math.round(wrapTurn(sun.azimuthDeg - turnDeg))} degrees from north` : `${Math.round(turnDeg)} degrees`
      }
      tabIndex={0}
      className="size-[116px] shrink-0 cursor-grab touch-none rounded-full"
      onKeyDown={onKeyDown}
      onPointerDown={event => {
        event.currentTarget.setPointerCapture(event.pointerId)
        drag.current = { from: angleAt(event), turn: turnDeg }
      }}
      onPointerMove={event => {
        if (drag.current) onTurn(wrapTurn(drag.current.turn - (angleAt(event) - drag.current.from)), false)
      }}
      onPointerUp={event => {
        if (drag.current) onTurn(wrapTurn(drag.current.turn - (angleAt(event) - drag.current.from)), true)
        drag.current = null
      }}
    >
      <svg aria-hidden width={SIZE} height={SIZE} viewBox={`0 0 ${SIZE} ${SIZE}`}>
        <circle cx={MIDDLE} cy={MIDDLE} r={RADIUS} fill="var(--mount)" stroke="var(--edge)" />
        {[30, 60].map(elevation => (
          <circle key={elevation} cx={MIDDLE} cy={MIDDLE} r={RADIUS * (1 - elevation / 90)} fill="none" stroke="var(--line)" />
        ))}
        <line x1={MIDDLE} y1={MIDDLE - RADIUS} x2={MIDDLE} y2={MIDDLE + RADIUS} stroke="var(--line)" />
        <line x1={MIDDLE - RADIUS} y1={MIDDLE} x2={MIDDLE + RADIUS} y2={MIDDLE} stroke="var(--line)" />
        <text x={MIDDLE} y={9} textAnchor="middle" fontSize={10} fill="var(--quiet)">
          N
        </text>
        {sun ? (
          <>
            <line x1={x} y1={y} x2={2 * MIDDLE - x} y2={2 * MIDDLE - y} stroke="var(--ink)" strokeDasharray="2 3" />
            <circle cx={x} cy={y} r={7} fill="var(--ink)" />
            <circle cx={x} cy={y} r={3.5} fill="var(--mount)" />
          </>
        ) : (
          <line x1={MIDDLE} y1={MIDDLE} x2={x} y2={y} stroke="var(--ink)" strokeWidth={2} />
        )}
      </svg>
    </div>
  )
}
