import { useRef } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import { lightForShadow } from '#core/mock-up/light/sun-position'
import { castOntoLevel, type Ray } from '#core/mock-up/placing/cast-into'
import type { Box } from '#core/mock-up/placing/snapping'

/** Of a low sun's shadow so much is taken hold of. */
const FARTHEST_M = 30
/** Of the way to its end, where the end itself is outside of the picture. */
const SHARES = [1, 0.8, 0.6, 0.4, 0.25, 0.15]

interface PieceShadow {
  /** Of the piece, which throws the shadow's end. */
  tip: Vec3
  foot: Vec3
  /** On the level that the piece stands on. */
  end: Vec3
}

/** The shadow of a piece; null of a sun at the horizon, or where nothing stands up. */
export function shadowOf(box: Box, azimuthDeg: number, elevationDeg: number): PieceShadow | null {
  if (elevationDeg <= 1) return null
  const [x, z] = [(box.min[0] + box.max[0]) / 2, (box.min[2] + box.max[2]) / 2]
  const reach = Math.min(FARTHEST_M, (box.max[1] - box.min[1]) / Math.tan((elevationDeg * Math.PI) / 180))
  if (!(reach > 0)) return null
  const a = (azimuthDeg * Math.PI) / 180
  return {
    tip: [x, box.max[1], z],
    foot: [x, box.min[1], z],
    end: [x - Math.sin(a) * reach, box.min[1], z + Math.cos(a) * reach],
  }
}

/** Where it is taken hold of, in the picture from -1 to 1: at its end, or as far out as is seen. */
export function holdOf({ foot, end }: PieceShadow, lens: Lens): { x: number; y: number } | null {
  for (const share of SHARES) {
    const seen = seeThrough(lens, foot.map((v, k) => v + (end[k] - v) * share) as unknown as Vec3)
    if (seen && Math.abs(seen.x) <= EDGE && Math.abs(seen.y) <= EDGE) return seen
  }
  return null
}
/** Close to the picture's own edge a handle is hidden by what lies over it. */
const EDGE = 0.97

interface Props {
  box: Box
  sun: { azimuthDeg: number; elevationDeg: number }
  turnDeg: number
  lens: Lens
  rayAt: (event: { clientX: number; clientY: number; currentTarget: EventTarget & Element }) => Ray
  frame: React.RefObject<HTMLDivElement | null>
  onTurn: (turnDeg: number, isLast: boolean) => void
}

/** A piece's shadow, to take hold of: where it is dragged to, the sky turns so that it falls there. */
export function ShadowHandle({ box, sun, turnDeg, lens, rayAt, frame, onTurn }: Props) {
  const isHeld = useRef(false)
  const found = shadowOf(box, sun.azimuthDeg - turnDeg, sun.elevationDeg)
  const seen = found && holdOf(found, lens)
  if (!found || !seen) return null
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
      aria-label="The shadow: drag it to turn the sky"
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
