import { type RefObject, useEffect, useRef, useState } from 'react'

/** So long after the last jump somebody may be looking again. */
const REST_MS = 120

/**
 * Whether a long list goes by faster than anybody could look: more than a screen at a time, several times on end. What passes then need be
 * neither read nor drawn.
 */
export function useHurry(scroller: RefObject<HTMLElement | null>): boolean {
  const [isHurried, setHurried] = useState(false)
  useEffect(() => {
    const element = scroller.current
    if (!element) return
    let top = element.scrollTop
    let jumpedAt = Number.NEGATIVE_INFINITY
    let rest: ReturnType<typeof setTimeout> | undefined
    const onScroll = () => {
      const isJump = Math.abs(element.scrollTop - top) > element.clientHeight
      top = element.scrollTop
      if (!isJump) return
      const now = performance.now()
      if (now - jumpedAt < REST_MS) setHurried(true)
      jumpedAt = now
      clearTimeout(rest)
      rest = setTimeout(() => setHurried(false), REST_MS)
    }
    element.addEventListener('scroll', onScroll, { passive: true })
    return () => {
      element.removeEventListener('scroll', onScroll)
      clearTimeout(rest)
    }
  }, [scroller])
  return isHurried
}

/** A value as it was when it was last let go on. */
export function useHeld<T>(value: T, isHeld: boolean): T {
  const kept = useRef(value)
  if (!isHeld) kept.current = value
  return kept.current
}
