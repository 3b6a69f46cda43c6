import { useEffect, useRef } from 'react'
import type { TracedView } from '../state/use-traced-view'

/** The traced picture over the live view, once it shows the same; and what it is. */
export function TracedLayer({ traced, isOn }: { traced: TracedView; isOn: boolean }) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const { image, isOfNow, state, error, hasFailed } = traced
  useEffect(() => {
    if (!image) return
    let isOver = false
    // Handed over as it is: putting pixels into a canvas waits for whatever the live view has given the card to draw.
    void createImageBitmap(image).then(bitmap => {
      const { current } = canvas
      if (isOver || !current) bitmap.close()
      else {
        current.width = bitmap.width
        current.height = bitmap.height
        current.getContext('bitmaprenderer')?.transferFromImageBitmap(bitmap)
      }
    })
    return () => {
      isOver = true
    }
  }, [image])
  return (
    <>
      <canvas
        ref={canvas}
        aria-hidden
        className="pointer-events-none absolute inset-0 size-full transition-opacity duration-200"
        // A first look of one ray for sixteen pixels tells less than the live view does.
        style={{ opacity: isOfNow && image && state !== 'rough' ? 1 : 0 }}
      />
      {isOn && (
        <span
          role="status"
          data-traced={isOfNow ? state : 'waiting'}
          className="figures pointer-events-none absolute right-3 bottom-2 rounded-sm bg-black/55 px-1.5 text-2xs text-white"
        >
          {hasFailed
            ? 'too large to refine in the browser'
            : !isOfNow || state === 'rough'
              ? 'live'
              : `refined${error === null ? '' : `, error ${(error * 100).toFixed(1)} %`}`}
        </span>
      )}
    </>
  )
}
