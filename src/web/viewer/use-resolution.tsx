import { useFrame, useThree } from '@react-three/fiber'
import { type ReactNode, useEffect, useRef, useState } from 'react'
import type { WebGLRenderer } from 'three'
import { FrameCost } from './frame-cost'
import { drawsOnProcessor } from './on-processor'

const MAX_PIXEL_RATIO = 2
/** Nothing asked for a frame for so long: it rests. */
const REST_MS = 250
const POLL_MS = 8
/** One for the other size, one when the canvas hears of it. */
const FRAMES_OF_A_RESIZE = 2
/** While it rests and is drawn coarsely, it is measured again after so long. */
const LOOK_AGAIN_MS = [1500, 6000]
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
  const look = useRef<ReturnType<typeof setTimeout> | null>(null)
  const looks = useRef(0)
  const isAnotherDrawn = useRef(false)
  /** So many of the next frames are drawn for their size or to be measured, and nothing moves. */
  const stillFrames = useRef(1)
  /** Finer while it rests, coarser while it moves. Not while the card draws: another size would make the page wait until it has. */
  const settle = () => {
    if (isTiming.current) return
    const next = rest.current === null ? Math.max(share, cost.share(false)) : Math.min(share, cost.share(true))
    if (next === share) {
      if (rest.current === null && share < 1) lookAgain()
      return
    }
    stillFrames.current = FRAMES_OF_A_RESIZE
    // At once: before the canvas hears of it, another frame might be drawn.
    setDpr(fullRatio() * next)
    onShare(next)
  }
  /** Draws once more, of which nobody may take it that something moves. */
  const measure = () => {
    stillFrames.current = 1
    invalidate()
  }
  /** What made it slow may be over, such as another page's first picture. */
  const lookAgain = () => {
    if (looks.current >= LOOK_AGAIN_MS.length) return
    clearTimeout(look.current ?? undefined)
    look.current = setTimeout(measure, LOOK_AGAIN_MS[looks.current++])
  }
  const awaitRest = () => {
    clearTimeout(rest.current ?? undefined)
    clearTimeout(look.current ?? undefined)
    looks.current = 0
    rest.current = setTimeout(() => {
      if (isTiming.current) return awaitRest()
      rest.current = null
      settle()
    }, REST_MS)
  }
  useEffect(
    () => () => {
      clearTimeout(rest.current ?? undefined)
      clearTimeout(look.current ?? undefined)
    },
    [],
  )
  const onDrawn = () => {
    isTiming.current = false
    if (rest.current !== null) awaitRest()
    settle()
  }
  useFrame(() => {
    if (isTiming.current) isAnotherDrawn.current = true
    else {
      isTiming.current = true
      isAnotherDrawn.current = false
      // After this frame's drawing, which follows in the same task.
      queueMicrotask(() => {
        whenDrawn(gl, ms => {
          if (ms !== null && !cost.took(ms, share)) measure()
          // The next may be the one that loads everything.
          if (isAnotherDrawn.current) whenDrawn(gl, onDrawn)
          else onDrawn()
        })
      })
    }
    if (stillFrames.current > 0) {
      stillFrames.current--
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
