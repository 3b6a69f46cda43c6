import { useRef } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import { lightForShadow } from '#core/mock-up/light/sun-position'
import { castOntoLevel, type Ray } from '#core/mock-up/placing/cast-into'
import type { Box } from '#core/mock-up/placing/snapping'

/** Farther away a shadow's end is nothing to take hold of. */
const FARTHEST_M = 30

/** Where the end of a piece's shadow falls on the level it stands on. */
export function shadowOf(box: Box, azimuthDeg: number, elevationDeg: number): { tip: Vec3; shadow: Vec3 } | null {
  if (elevationDeg <= 1) return null
  const tip: Vec3 = [(box.min[0] + box.max[0]) / 2, box.max[1], (box.min[2] + box.max[2]) / 2]
  const reach = (box.max[1] - box.min[1]) / Math.tan((elevationDeg * Math.PI) / 180)
  if (!(reach > 0 && reach < FARTHEST_M)) return null
  const a = (azimuthDeg * Math.PI) / 180
  return { tip, shadow: [tip[0] - Math.sin(a) * reach, box.min[1], tip[2] + Math.cos(a) * reach] }
}

interface Props {
  box: Box
  sun: { azimuthDeg: number; elevationDeg: number }
  turnDeg: number
  lens: Lens
  rayAt: (event: { clientX: number; clientY: number; currentTarget: EventTarget & Element }) => Ray
  frame: React.RefObject<HTMLDivElement | null>
  onTurn: (turnDeg: number, isLast: boolean) => void
}

/** The end of a piece's shadow, to take hold of: where it is dragged to, the sky turns so that it falls there. */
export function ShadowHandle({ box, sun, turnDeg, lens, rayAt, frame, onTurn }: Props) {
  const isHeld = useRef(false)
  const found = shadowOf(box, sun.azimuthDeg - turnDeg, sun.elevationDeg)
  const seen = found && seeThrough(lens, found.shadow)
  if (!found || !seen || Math.abs(seen.x) > 1 || Math.abs(seen.y) > 1) return null
  const turnAt = (event: React.PointerEvent) => {
    const at =
      frame.current &&
      castOntoLevel(rayAt({ clientX: event.clientX, clientY: event.clientY, currentTarget: frame.current }), box.min[1])
    const light = at && lightForShadow(found.tip, at)
    return light ? sun.azimuthDeg - light.azimuthDeg : null
  }
  const turnTo = (event: React.PointerEvent, isLast: boolean) => {
    const next = turnAt(event)
    if (next !== null) onTurn(((((next + 180) % 360) + 360) % 360) - 180, isLast)
  }
  return (
    <button
      type="button"
      data-over-view
      aria-label="End of the shadow: drag it to turn the sky"
      title="Drag the shadow: the sky turns with it"
      className="absolute z-[5] size-5 -translate-1/2 cursor-grab rounded-full border-2 border-white bg-black/60 shadow"
      style={{ left: `${(seen.x * 0.5 + 0.5) * 100}%`, top: `${(0.5 - seen.y * 0.5) * 100}%` }}
      onPointerDown={event => {
        event.stopPropagation()
        event.currentTarget.setPointerCapture(event.pointerId)
        isHeld.current = true
      }}
      onPointerMove={event => {
        event.stopPropagation()
        if (isHeld.current) turnTo(event, false)
      }}
      onPointerUp={event => {
        event.stopPropagation()
        if (isHeld.current) turnTo(event, true)
        isHeld.current = false
      }}
      onKeyDown={event => {
        const by = event.key === 'ArrowLeft' ? 5 : event.key === 'ArrowRight' ? -5 : 0
        if (by === 0) return
        event.preventDefault()
        event.stopPropagation()
        onTurn(turnDeg + by, true)
      }}
    />
  )
}
