import { useEffect, useMemo, useRef, useState } from 'react'
import type { FloatImage } from '#core/image/image'
import { listKeys } from '#core/mock-up/materials/list-refs'
import type { Scene } from '#core/mock-up/scene/scene'
import type { Look, ResourcePart, Resources } from '#core/mock-up/things/resources'
import type { CandelaWeb } from '#core/photometry/candela-web'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import type { ItemCommand, ItemNews } from '../../../workers/item.worker'
import type { OpenedSizes } from '../../../workers/open-item'

export interface LiveResources extends Resources<ImageBitmap> {
  /** Keys of what did not open. */
  failed: ReadonlySet<string>
}

const NOTHING: LiveResources = {
  models: new Map(),
  materials: new Map(),
  skies: new Map(),
  webs: new Map(),
  failed: new Set(),
}

/** Decoding pictures is most of it, and goes beside each other. */
const WORKERS = 3
/** Of more materials the maps are opened smaller: those of forty at full size are half a gigabyte on the card. */
const MOST_AT_FULL_SIZE = 20
const FULL: OpenedSizes = { mapPx: 1024, skyPx: 1024 }
const SMALL: OpenedSizes = { mapPx: 512, skyPx: 1024 }
/** What comes within so long is shown together: every time, the whole scene is put together anew. */
const SETTLE_MS = 250

const makeWorker = () => new Worker(new URL('../../../workers/item.worker.ts', import.meta.url), { type: 'module' })

/** Opens what a scene shows in workers, each once, as it comes in; what comes together is shown together. */
export function useResources(scene: Scene, items: ReadonlyMap<string, MockUpItem>): LiveResources {
  const [resources, setResources] = useState(NOTHING)
  const asked = useRef(new Set<string>())
  const workers = useRef<readonly Worker[]>([])
  useEffect(() => {
    const made = Array.from({ length: WORKERS }, makeWorker)
    workers.current = made
    asked.current = new Set()
    const arrived: ItemNews[] = []
    let timer: ReturnType<typeof setTimeout> | null = null
    const settle = () => {
      timer = null
      const news = arrived.splice(0)
      setResources(before => news.reduce(takeIn, before))
    }
    for (const worker of made)
      worker.onmessage = ({ data }: MessageEvent<ItemNews>) => {
        arrived.push(data)
        timer ??= setTimeout(settle, SETTLE_MS)
      }
    return () => {
      for (const worker of made) worker.terminate()
      if (timer) clearTimeout(timer)
      setResources(NOTHING)
    }
  }, [])
  const wanted = useMemo(() => listKeys(scene), [scene])
  useEffect(() => {
    const fresh = wanted.filter(key => items.has(key) && !asked.current.has(key))
    if (fresh.length === 0) return
    const materials = wanted.filter(key => items.get(key)?.kind === 'material').length
    const sizes = materials > MOST_AT_FULL_SIZE ? SMALL : FULL
    for (const key of fresh) {
      asked.current.add(key)
      const worker = workers.current[asked.current.size % WORKERS]
      worker?.postMessage({ key, item: items.get(key)!, sizes } satisfies ItemCommand)
    }
  }, [wanted, items])
  return resources
}

/** How much of what a scene shows is not there yet, and may still come. */
export const countUnopened = (scene: Scene, { models, materials, skies, webs, failed }: LiveResources): number =>
  listKeys(scene).filter(key => ![models, materials, skies, webs, failed].some(known => known.has(key))).length

function takeIn(before: LiveResources, { key, opened }: ItemNews): LiveResources {
  if (!opened) return { ...before, failed: new Set([...before.failed, key]) }
  switch (opened.kind) {
    case 'model':
      return { ...before, models: new Map<string, readonly ResourcePart<ImageBitmap>[]>([...before.models, [key, opened.parts]]) }
    case 'material':
      return { ...before, materials: new Map<string, Look<ImageBitmap>>([...before.materials, [key, opened.look]]) }
    case 'sky':
      return { ...before, skies: new Map<string, FloatImage>([...before.skies, [key, opened.map]]) }
    case 'light':
      return { ...before, webs: new Map<string, CandelaWeb>([...before.webs, [key, opened.web]]) }
    default:
      return opened satisfies never
  }
}
