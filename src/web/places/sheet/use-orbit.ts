import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react'
import { NO_ORBIT, type Orbit } from '#core/render/film/camera'

/** Across the whole width it is once half round. */
const TURN_RAD = Math.PI
const KEY_TURN_RAD = Math.PI / 12
const [NEAREST, FARTHEST] = [0.25, 3]
/** The pointer moves so far, in CSS pixels, before a press is a drag. */
const SLOP = 4

const clampDistance = (distance: number): number => Math.min(FARTHEST, Math.max(NEAREST, distance))

export function orbitAfterKey(key: string, orbit: Orbit): Orbit | null {
  switch (key) {
    case 'ArrowLeft':
      return { ...orbit, yawRad: orbit.yawRad - KEY_TURN_RAD }
    case 'ArrowRight':
      return { ...orbit, yawRad: orbit.yawRad + KEY_TURN_RAD }
    case 'ArrowUp':
      return { ...orbit, pitchRad: orbit.pitchRad + KEY_TURN_RAD }
    case 'ArrowDown':
      return { ...orbit, pitchRad: orbit.pitchRad - KEY_TURN_RAD }
    case '+':
      return { ...orbit, distance: clampDistance(orbit.distance / 1.25) }
    case '-':
      return { ...orbit, distance: clampDistance(orbit.distance * 1.25) }
    default:
      return null
  }
}

/** Going round something by pointer, wheel and keys. */
export function useOrbit(onBegin: () => void) {
  const [orbit, setOrbit] = useState(NO_ORBIT)
  const [isMoving, setMoving] = useState(false)
  const drag = useRef<{ x: number; y: number; from: Orbit; isDrag: boolean } | null>(null)
  const handlers = {
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0) return
      drag.current = { x: event.clientX, y: event.clientY, from: orbit, isDrag: false }
    },
    onPointerMove: (event: PointerEvent) => {
      const held = drag.current
      // Let go of outside, before it was a drag.
      if (held && event.buttons === 0) drag.current = null
      if (!held || event.buttons === 0) return
      const [dx, dy] = [event.clientX - held.x, event.clientY - held.y]
      if (!held.isDrag && Math.hypot(dx, dy) < SLOP) return
      if (!held.isDrag) {
        held.isDrag = true
        // Not before: a double click belongs to what lies within.
        event.currentTarget.setPointerCapture(event.pointerId)
        setMoving(true)
        onBegin()
      }
      const { width } = event.currentTarget.getBoundingClientRect()
      setOrbit({
        ...held.from,
        yawRad: held.from.yawRad - (dx / width) * TURN_RAD,
        pitchRad: held.from.pitchRad + (dy / width) * TURN_RAD,
      })
    },
    onPointerUp: () => {
      drag.current = null
      setMoving(false)
    },
    onPointerCancel: () => {
      drag.current = null
      setMoving(false)
    },
  }
  const onKey = (event: KeyboardEvent): boolean => {
    const next = orbitAfterKey(event.key, orbit)
    if (!next) return false
    event.preventDefault()
    setOrbit(next)
    return true
  }
  const come = (factor: number) => setOrbit(o => ({ ...o, distance: clampDistance(o.distance * factor) }))
  return { orbit, isMoving, handlers, onKey, come, reset: () => setOrbit(NO_ORBIT) }
}
