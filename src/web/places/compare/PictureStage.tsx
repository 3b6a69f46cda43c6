import {
  type CSSProperties,
  type KeyboardEvent,
  type MouseEvent,
  type PointerEvent,
  type ReactNode,
  useEffect,
  useRef,
} from 'react'
import { PREVIEW_ASPECT } from '#core/render/rigs/rig'
import { panBy, toPicture, type View, viewAfterKey, WHOLE, zoomAt } from './view-state'

export interface Spot {
  u: number
  v: number
}

interface StageProps {
  label: string
  view: View
  onView: (view: View) => void
  spot: Spot | null
  onSpot: (spot: Spot | null) => void
  /** On a page that scrolls, the wheel enlarges only what is enlarged already; a double click begins and ends that. */
  isOnPage?: boolean
  /** Width over height, where it is not the house aspect. */
  aspect?: number
  children: ReactNode
}

/** What a double click shows of a picture. */
const CLOSER = 3

/** A frame onto pictures: wheel to enlarge, drag to move, the same by keyboard; tells which point is under the pointer. */
export function PictureStage({
  label,
  view,
  onView,
  spot,
  onSpot,
  isOnPage = false,
  aspect = PREVIEW_ASPECT,
  children,
}: StageProps) {
  const box = useRef<HTMLDivElement>(null)
  const drag = useRef<{ x: number; y: number } | null>(null)
  const latest = useRef({ view, onView })
  latest.current = { view, onView }
  useEffect(() => {
    const element = box.current
    if (!element) return
    // React's own wheel listener may not keep the page from scrolling.
    const onWheel = (event: WheelEvent) => {
      const { view, onView } = latest.current
      if (isOnPage && view.scale <= 1) return
      event.preventDefault()
      const at = element.getBoundingClientRect()
      const factor = Math.exp(-event.deltaY * 0.0016)
      onView(zoomAt(view, factor, (event.clientX - at.left) / at.width, (event.clientY - at.top) / at.height))
    }
    element.addEventListener('wheel', onWheel, { passive: false })
    return () => element.removeEventListener('wheel', onWheel)
  }, [isOnPage])
  const onPointerMove = (event: PointerEvent) => {
    const at = event.currentTarget.getBoundingClientRect()
    if (drag.current) {
      onView(panBy(view, (event.clientX - drag.current.x) / at.width, (event.clientY - drag.current.y) / at.height))
      drag.current = { x: event.clientX, y: event.clientY }
    }
    onSpot(toPicture(view, (event.clientX - at.left) / at.width, (event.clientY - at.top) / at.height))
  }
  const onDoubleClick = (event: MouseEvent) => {
    if (view.scale > 1) return onView(WHOLE)
    const at = event.currentTarget.getBoundingClientRect()
    onView(zoomAt(view, CLOSER, (event.clientX - at.left) / at.width, (event.clientY - at.top) / at.height))
  }
  const onKeyDown = (event: KeyboardEvent) => {
    // The arrows of a page that scrolls are its own as long as there is nowhere to move to.
    if (isOnPage && view.scale <= 1 && event.key.startsWith('Arrow')) return
    const next = viewAfterKey(event.key, view)
    if (!next) return
    event.preventDefault()
    onView(next)
  }
  return (
    // biome-ignore lint/a11y/useSemanticElements: a frame onto a picture is no fieldset
    <div
      ref={box}
      role="group"
      aria-label={`${label}. Arrow keys move, plus and minus enlarge, 0 shows the whole`}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: moved and enlarged by keys
      tabIndex={0}
      className={`relative w-full touch-none overflow-hidden bg-mount select-none ${view.scale > 1 ? 'cursor-grab active:cursor-grabbing' : isOnPage ? 'cursor-zoom-in' : 'cursor-crosshair'}`}
      style={{ aspectRatio: aspect }}
      onPointerDown={event => {
        drag.current = { x: event.clientX, y: event.clientY }
        event.currentTarget.setPointerCapture(event.pointerId)
      }}
      onPointerUp={() => {
        drag.current = null
      }}
      onPointerMove={onPointerMove}
      onPointerLeave={() => onSpot(null)}
      onKeyDown={onKeyDown}
      onDoubleClick={onDoubleClick}
    >
      {children}
      {spot && (
        <span
          aria-hidden
          className="pointer-events-none absolute size-2 -translate-1/2 rounded-full border border-white mix-blend-difference"
          style={{
            left: `${((spot.u - view.x) * view.scale + 0.5) * 100}%`,
            top: `${((spot.v - view.y) * view.scale + 0.5) * 100}%`,
          }}
        />
      )}
    </div>
  )
}

/** Where a picture lies as seen through the view; sharp pixels once they are large enough to be told apart. */
export const placeIn = ({ scale, x, y }: View): CSSProperties => ({
  width: `${scale * 100}%`,
  height: `${scale * 100}%`,
  left: `${(0.5 - x * scale) * 100}%`,
  top: `${(0.5 - y * scale) * 100}%`,
  imageRendering: scale > 3 ? 'pixelated' : 'auto',
})

/** A picture by its address as seen through the view. */
export function AddressLayer({ url, alt, view }: { url: string; alt: string; view: View }) {
  return <img src={url} alt={alt} draggable={false} decoding="async" className="absolute max-w-none" style={placeIn(view)} />
}

/** One picture as seen through the view. */
export function PictureLayer({ image, view, clip }: { image: ImageData; view: View; clip?: string }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  useEffect(() => {
    canvas.current?.getContext('2d')?.putImageData(image, 0, 0)
  }, [image])
  return (
    <div aria-hidden className="absolute inset-0" style={{ clipPath: clip }}>
      <canvas ref={canvas} width={image.width} height={image.height} className="absolute max-w-none" style={placeIn(view)} />
    </div>
  )
}
