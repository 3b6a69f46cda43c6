import { type ReactNode, useEffect, useLayoutEffect, useRef, useState } from 'react'
import type { Vec3 } from '#core/math/vec3'
import { type Lens, seeThrough } from '#core/mock-up/composing/look-through'
import type { Box } from '#core/mock-up/placing/snapping'

const WIDTH = 296
const GAP = 24
const EDGE = 12
const SIDE = 320

interface Props {
  lens: Lens
  /** What it stands beside; null for the left edge. */
  box: Box | null
  isShelfOpen: boolean
  isSideOpen: boolean
  label: string
  children: ReactNode
}

/** A card beside what it concerns: to its right where there is room, else to its left. */
export function Beside({ lens, box, isShelfOpen, isSideOpen, label, children }: Props) {
  const card = useRef<HTMLElement>(null)
  const [at, setAt] = useState({ left: EDGE, top: EDGE })
  /** What it shows may grow: it moves up then. */
  const [height, setHeight] = useState(0)
  useEffect(() => {
    const { current } = card
    if (!current) return
    const observer = new ResizeObserver(() => setHeight(current.offsetHeight))
    observer.observe(current)
    return () => observer.disconnect()
  }, [])
  const key = JSON.stringify([lens, box, isShelfOpen, isSideOpen, height])
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for where it is
  useLayoutEffect(() => {
    const { current } = card
    const parent = current?.parentElement
    if (!current || !parent) return
    const { clientWidth, clientHeight } = parent
    const room = clientWidth - (isSideOpen ? SIDE : 0)
    const seen = box ? cornersOf(box).flatMap(c => seeThrough(lens, c) ?? []) : []
    const xs = seen.map(s => (s.x * 0.5 + 0.5) * clientWidth)
    const ys = seen.map(s => (0.5 - s.y * 0.5) * clientHeight)
    const right = Math.max(...xs, 0) + GAP
    const leftOf = Math.min(...xs, room) - GAP - WIDTH
    const wished = seen.length === 0 ? EDGE : right + WIDTH + EDGE < room ? right : leftOf > EDGE ? leftOf : room - WIDTH - EDGE
    const lowest = clientHeight - current.offsetHeight - (isShelfOpen ? 164 : 56)
    setAt({
      left: Math.max(EDGE, Math.min(wished, room - WIDTH - EDGE)),
      top: Math.max(EDGE, Math.min(Math.min(...ys, clientHeight), lowest)),
    })
  }, [key])
  return (
    <section
      ref={card}
      data-over-view
      aria-label={label}
      className="absolute z-[7] overflow-y-auto rounded-sm border border-edge bg-sheet p-4 shadow-lg"
      style={{ left: at.left, top: at.top, width: WIDTH, maxHeight: `calc(100% - ${isShelfOpen ? 176 : 68}px)` }}
    >
      {children}
    </section>
  )
}

const cornersOf = ({ min, max }: Box): Vec3[] =>
  Array.from({ length: 8 }, (_, n) => [0, 1, 2].map(k => (n & (1 << k) ? max[k] : min[k])) as Vec3)
