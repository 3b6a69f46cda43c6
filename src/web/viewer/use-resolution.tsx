import { useFrame, useThree } from '@react-three/fiber'
import { type ReactNode, useEffect, useState } from 'react'
import type { WebGLRenderer } from 'three'
import { FrameCost } from './frame-cost'
import { drawsOnProcessor } from './on-processor'
import { ResolutionPace } from './resolution-pace'

const MAX_PIXEL_RATIO = 2
const POLL_MS = 8
/** What a processor takes for a picture of some size, before it has drawn one. */
const GUESS_ON_PROCESSOR_MS = 1500

const fullRatio = (): number => Math.min(MAX_PIXEL_RATIO, Math.max(1, window.devicePixelRatio))

/**
 * The pixel ratio of a live view such that it follows the hand on any machine: as coarse as it needs to be while something moves, finer when it
 * rests.
 * @returns the ratio for the canvas, and what is to stand in it to tell how long frames take
 */
export function useResolution(): { dpr: number; watch: ReactNode } {
  const [cost] = useState(() => new FrameCost(drawsOnProcessor() ? GUESS_ON_PROCESSOR_MS : 0))
  const [share, setShare] = useState(() => cost.share(false))
  return { dpr: fullRatio() * share, watch: <FrameWatch cost={cost} onShare={setShare} /> }
}

interface WatchProps {
  cost: FrameCost
  onShare: (share: number) => void
}

function FrameWatch({ cost, onShare }: WatchProps) {
  const { gl, setDpr, invalidate } = useThree()
  const [pace] = useState(
    () =>
      new ResolutionPace(
        {
          setShare: share => {
            // At once: before the canvas hears of it, another frame might be drawn.
            setDpr(fullRatio() * share)
            onShare(share)
          },
          drawAgain: () => invalidate(),
          // After this frame's drawing, which follows in the same task.
          whenDrawn: tell => queueMicrotask(() => whenDrawn(gl, tell)),
        },
        cost,
      ),
  )
  useEffect(() => () => pace.stop(), [pace])
  useFrame(() => pace.frame())
  return null
}

/** Tells how long what was given to draw so far took from now, without waiting for it; null when that cannot be known. */
function whenDrawn(renderer: WebGLRenderer, tell: (ms: number | null) => void): void {
  const gl = renderer.getContext() as WebGL2RenderingContext
  const start = performance.now()
  const fence = gl.fenceSync(gl.SYNC_GPU_COMMANDS_COMPLETE, 0)
  if (!fence) {
    tell(null)
    return
  }
  gl.flush()
  const ask = () => {
    const isDrawn = gl.getSyncParameter(fence, gl.SYNC_STATUS) === gl.SIGNALED
    if (!isDrawn && !gl.isContextLost()) {
      setTimeout(ask, POLL_MS)
      return
    }
    gl.deleteSync(fence)
    tell(isDrawn ? performance.now() - start : null)
  }
  setTimeout(ask, POLL_MS)
}
