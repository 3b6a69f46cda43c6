import { useEffect, useMemo, useRef, useState } from 'react'
import { keepOutOf } from '#core/mock-up/composing/compose'
import { meshesUnder } from '#core/mock-up/planting/ground'
import type { Plant } from '#core/mock-up/planting/grow-planting'
import type { Planting, Scene } from '#core/mock-up/scene/scene'
import type { GrowCommand, GrowNews } from '../../../workers/grow.worker'
import type { LiveResources } from './use-resources'

type KeepOut = ReturnType<typeof keepOutOf>

/** What makes plants grow otherwise: not what it is called, nor whether it is shown. */
const growthKey = (
  { name: _, group: _group, isHidden: _isHidden, ...growth }: Planting,
  keepOut: KeepOut,
  under: string,
): string => JSON.stringify([growth, keepOut, under])

/** What of a stage its surfaces depend on. */
const stageKey = (stage: Scene['stage']) => (stage.kind === 'model' ? [stage.model.key, stage.without] : stage.kind)

/** Only what stands near an area is kept out of. */
function nearTo({ outline, clearM }: Planting, keepOut: KeepOut): KeepOut {
  const xs = outline.map(p => p[0])
  const zs = outline.map(p => p[1])
  return keepOut.filter(({ x, z, radiusM }) => {
    const room = radiusM + clearM
    return x > Math.min(...xs) - room && x < Math.max(...xs) + room && z > Math.min(...zs) - room && z < Math.max(...zs) + room
  })
}

/** The plants of a scene's plantings, grown in a worker; until one has grown anew, what grew there before is shown. */
export function usePlants(scene: Scene, resources: LiveResources): ReadonlyMap<string, readonly Plant[]> {
  const [grown, setGrown] = useState<ReadonlyMap<string, readonly Plant[]>>(new Map())
  const worker = useRef<Worker | null>(null)
  const asked = useRef(new Map<string, string>())
  useEffect(() => {
    const made = new Worker(new URL('../../../workers/grow.worker.ts', import.meta.url), { type: 'module' })
    worker.current = made
    asked.current = new Map()
    made.onmessage = ({ data }: MessageEvent<GrowNews>) => {
      const id = [...asked.current].find(([, key]) => key === data.key)?.[0]
      if (id !== undefined) setGrown(before => new Map([...before, [id, data.plants]]))
    }
    return () => made.terminate()
  }, [])
  const { models } = resources
  const { stage } = scene
  const keepOut = useMemo(() => keepOutOf(scene, { models }), [scene, models])
  useEffect(() => {
    for (const [id, planting] of Object.entries(scene.plantings)) {
      const near = nearTo(planting, keepOut)
      const under = meshesUnder({ stage }, planting, { models })
      const key = growthKey(planting, near, under.length > 0 ? JSON.stringify([stageKey(stage), under.length]) : '')
      if (asked.current.get(id) === key) continue
      asked.current.set(id, key)
      worker.current?.postMessage({ key, planting, keepOut: near, under } satisfies GrowCommand)
    }
  }, [scene.plantings, stage, models, keepOut])
  return grown
}
