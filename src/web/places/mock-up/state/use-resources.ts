import { useEffect, useMemo, useRef, useState } from 'react'
import type { FloatImage } from '#core/image/image'
import { listRefs } from '#core/mock-up/list-refs'
import type { Look, ResourcePart, Resources } from '#core/mock-up/resources'
import type { Scene } from '#core/mock-up/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { ItemCommand, ItemNews } from '../../../workers/item.worker'

export interface LiveResources extends Resources<ImageBitmap> {
  /** Keys of what is still being opened, and of what did not open. */
  opening: ReadonlySet<string>
  failed: ReadonlySet<string>
}

const NOTHING: LiveResources = {
  models: new Map(),
  materials: new Map(),
  skies: new Map(),
  opening: new Set(),
  failed: new Set(),
}

/** Opens what a scene shows in a worker, each once, as it comes in; what comes together is shown together. */
export function useResources(scene: Scene, items: ReadonlyMap<string, MockUpItem>): LiveResources {
  const [resources, setResources] = useState(NOTHING)
  const asked = useRef(new Set<string>())
  const worker = useRef<Worker | null>(null)
  useEffect(() => {
    const made = new Worker(new URL('../../../workers/item.worker.ts', import.meta.url), { type: 'module' })
    worker.current = made
    asked.current = new Set()
    const arrived: ItemNews[] = []
    let timer: ReturnType<typeof setTimeout> | null = null
    const settle = () => {
      timer = null
      const news = arrived.splice(0)
      setResources(before => news.reduce(takeIn, before))
    }
    made.onmessage = ({ data }: MessageEvent<ItemNews>) => {
      arrived.push(data)
      timer ??= setTimeout(settle, 60)
    }
    return () => {
      made.terminate()
      if (timer) clearTimeout(timer)
      setResources(NOTHING)
    }
  }, [])
  const wanted = useMemo(() => listRefs(scene).map(r => r.inputKey), [scene])
  useEffect(() => {
    const fresh = wanted.filter(key => items.has(key) && !asked.current.has(key))
    if (fresh.length === 0) return
    for (const key of fresh) {
      asked.current.add(key)
      worker.current?.postMessage({ key, item: items.get(key)! } satisfies ItemCommand)
    }
    setResources(before => ({ ...before, opening: new Set([...before.opening, ...fresh]) }))
  }, [wanted, items])
  return resources
}

function takeIn(before: LiveResources, { key, opened }: ItemNews): LiveResources {
  const opening = new Set(before.opening)
  opening.delete(key)
  const next = { ...before, opening }
  if (!opened) return { ...next, failed: new Set([...before.failed, key]) }
  switch (opened.kind) {
    case 'model':
      return { ...next, models: new Map<string, readonly ResourcePart<ImageBitmap>[]>([...before.models, [key, opened.parts]]) }
    case 'material':
      return { ...next, materials: new Map<string, Look<ImageBitmap>>([...before.materials, [key, opened.look]]) }
    case 'sky':
      return { ...next, skies: new Map<string, FloatImage>([...before.skies, [key, opened.map]]) }
    default:
      return opened satisfies never
  }
}
