import { useFrame, useThree } from '@react-three/fiber'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import type { WebGLRenderer } from 'three'
import { FrameCost } from './frame-cost'
import { drawsOnProcessor } from './on-processor'

const MAX_PIXEL_RATIO = 2
/** Nothing asked for a frame for so long: it rests. */
const REST_MS = 250
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
  return { dpr: fullRatio() * share, watch: <FrameWatch cost={cost} share={share} onShare={setShare} /> }
}

interface WatchProps {
  cost: FrameCost
  share: number
  onShare: (share: number) => void
}

function FrameWatch({ cost, share, onShare }: WatchProps) {
  const { gl, setDpr, invalidate } = useThree()
  /** Set while something moves. */
  const rest = useRef<ReturnType<typeof setTimeout> | null>(null)
  const isTiming = useRef(false)
  /** Finer while it rests, coarser while it moves. Not while the card draws: another size would make the page wait until it has. */
  const settle = () => {
    if (isTiming.current) return
    const next = rest.current === null ? Math.max(share, cost.share(false)) : Math.min(share, cost.share(true))
    if (next === share) return
    // At once: before the canvas hears of it, another frame might be drawn.
    setDpr(fullRatio() * next)
    onShare(next)
  }
  const awaitRest = () => {
    clearTimeout(rest.current ?? undefined)
    rest.current = setTimeout(() => {
      if (isTiming.current) return awaitRest()
      rest.current = null
      settle()
    }, REST_MS)
  }
  /** The frame that follows a change of size is of that change, and nothing moves. */
  const isOfResize = useRef(true)
  // biome-ignore lint/correctness/useExhaustiveDependencies: another size draws a frame of its own
  useEffect(() => {
    isOfResize.current = true
  }, [share])
  useEffect(() => () => clearTimeout(rest.current ?? undefined), [])
  useFrame(() => {
    if (!isTiming.current) {
      isTiming.current = true
      // After this frame's drawing, which follows in the same task.
      queueMicrotask(() => {
        whenDrawn(gl, ms => {
          isTiming.current = false
          if (ms !== null && !cost.took(ms, share)) invalidate()
          if (rest.current !== null) awaitRest()
          settle()
        })
      })
    }
    if (isOfResize.current) {
      isOfResize.current = false
      return
    }
    awaitRest()
  })
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
