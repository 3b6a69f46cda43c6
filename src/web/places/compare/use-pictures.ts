import { useEffect, useRef, useState } from 'react'
import type { PictureDifference } from '#core/compare/compare-pictures'
import type { CompareAnswer, CompareRequest } from '../../workers/compare.worker'
import { type Addressed, loadPicture, type Picture } from './load-picture'

export type Loaded = { state: 'waiting' } | { state: 'failed' } | { state: 'there'; picture: Picture; image: ImageData }

/** The pictures of a comparison as they arrive. */
export function usePictures(
  compared: readonly { preview: Addressed | null }[],
  toImage: (picture: Picture) => ImageData,
): Loaded[] {
  const [loaded, setLoaded] = useState(new Map<string, Loaded>())
  const urls = compared.map(c => c.preview?.url ?? '').join(' ')
  // biome-ignore lint/correctness/useExhaustiveDependencies: other addresses, other pictures
  useEffect(() => {
    let live = true
    for (const { preview } of compared) {
      if (!preview) continue
      const keep = (value: Loaded) => live && setLoaded(old => new Map(old).set(preview.url, value))
      loadPicture(preview).then(
        picture => keep({ state: 'there', picture, image: toImage(picture) }),
        () => keep({ state: 'failed' }),
      )
    }
    return () => {
      live = false
    }
  }, [urls])
  return compared.map(c => (c.preview ? loaded.get(c.preview.url) : undefined) ?? { state: 'waiting' })
}

export type Difference =
  | { state: 'none' | 'computing' }
  | { state: 'failed'; message: string }
  | ({ state: 'there' } & PictureDifference)

/** The difference of two pictures, computed in a worker of its own; `active` only. */
export function useDifference(a: Loaded | undefined, b: Loaded | undefined, active: boolean): Difference {
  const worker = useRef<Worker | null>(null)
  const nextId = useRef(1)
  const [difference, setDifference] = useState<Difference>({ state: 'none' })
  const pictureA = a?.state === 'there' ? a.picture : null
  const pictureB = b?.state === 'there' ? b.picture : null
  useEffect(() => {
    if (!active || !pictureA || !pictureB) {
      setDifference({ state: 'none' })
      return
    }
    worker.current ??= new Worker(new URL('../../workers/compare.worker.ts', import.meta.url), { type: 'module' })
    const id = nextId.current++
    setDifference({ state: 'computing' })
    const onMessage = ({ data }: MessageEvent<CompareAnswer>) => {
      if (data.id !== id) return
      setDifference('difference' in data ? { state: 'there', ...data.difference } : { state: 'failed', message: data.message })
    }
    const target = worker.current
    target.addEventListener('message', onMessage)
    target.postMessage({ id, a: pictureA.linear, b: pictureB.linear } satisfies CompareRequest)
    return () => target.removeEventListener('message', onMessage)
  }, [active, pictureA, pictureB])
  useEffect(
    () => () => {
      worker.current?.terminate()
      worker.current = null
    },
    [],
  )
  return difference
}
