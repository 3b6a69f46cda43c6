import { useEffect, useRef, useState } from 'react'
import type { SplitKey } from '#core/environment/soften-key'
import type { FloatImage } from '#core/image/image'
import type { SkyAnswer, SkyOrder } from '../../workers/sky.worker'

/** Of each map once. */
const known = new WeakMap<FloatImage, SplitKey | null>()

/**
 * The sun of a sky apart from the rest of it, looked for in a worker. While a sky is drawn from an hour to the next, what was found last
 * stands until the next is there.
 * @returns null where nothing throws a shadow, and as long as nothing was found yet
 */
export function useSplitSky(map: FloatImage | null): SplitKey | null {
  const worker = useRef<Worker | null>(null)
  const asked = useRef(new Map<number, FloatImage>())
  const wanted = useRef(map)
  const [found, setFound] = useState<SplitKey | null>(null)
  useEffect(() => {
    const made = new Worker(new URL('../../workers/sky.worker.ts', import.meta.url), { type: 'module' })
    worker.current = made
    made.onmessage = ({ data: { number, split } }: MessageEvent<SkyAnswer>) => {
      const of = asked.current.get(number)
      asked.current.delete(number)
      if (!of) return
      known.set(of, split)
      if (of === wanted.current) setFound(split)
    }
    return () => {
      made.terminate()
      worker.current = null
      asked.current.clear()
    }
  }, [])
  useEffect(() => {
    wanted.current = map
    const split = map === null ? null : known.get(map)
    if (map === null || split !== undefined) {
      setFound(split ?? null)
      return
    }
    const number = nextNumber++
    asked.current.set(number, map)
    worker.current?.postMessage({ number, map } satisfies SkyOrder)
  }, [map])
  return map === null ? null : found
}

let nextNumber = 1
