import { useEffect, useRef, useState } from 'react'
import type { SplitKey } from '#core/environment/soften-key'
import type { FloatImage } from '#core/image/image'
import type { SkyAnswer, SkyOrder } from '../../workers/sky.worker'

/** Of each map once. */
const known = new WeakMap<FloatImage, SplitKey | null>()

/** A sky as it can be drawn: what it looks like, and its sun apart, where it has one that throws shadows. */
export interface LitSky {
  /** Null for the house light. */
  map: FloatImage | null
  split: SplitKey | null
}

const HOUSE: LitSky = { map: null, split: null }

/**
 * The sky that is wanted, as soon as its sun was looked for in a worker; until then the one before. One is looked through at a time, and
 * after it what is wanted by then: a sky that is drawn from an hour to the next is followed as fast as that goes.
 */
export function useLitSky(map: FloatImage | null): LitSky {
  const worker = useRef<Worker | null>(null)
  const wanted = useRef(map)
  const busyWith = useRef<FloatImage | null>(null)
  const [lit, setLit] = useState(HOUSE)
  const lookAt = useRef((_map: FloatImage | null) => {})
  lookAt.current = (next: FloatImage | null) => {
    const split = next === null ? null : known.get(next)
    if (split !== undefined) {
      setLit({ map: next, split })
    } else if (busyWith.current === null && next !== null) {
      busyWith.current = next
      worker.current?.postMessage({ map: next } satisfies SkyOrder)
    }
  }
  useEffect(() => {
    const made = new Worker(new URL('../../workers/sky.worker.ts', import.meta.url), { type: 'module' })
    worker.current = made
    made.onmessage = ({ data: { split } }: MessageEvent<SkyAnswer>) => {
      const map = busyWith.current
      busyWith.current = null
      if (!map) return
      known.set(map, split)
      setLit({ map, split })
      if (wanted.current !== map) lookAt.current(wanted.current)
    }
    busyWith.current = null
    lookAt.current(wanted.current)
    return () => {
      made.terminate()
      worker.current = null
    }
  }, [])
  useEffect(() => {
    wanted.current = map
    lookAt.current(map)
  }, [map])
  return lit
}
