import { useEffect, useRef, useState } from 'react'
import type { Scene, Shot } from '#core/mock-up/scene/scene'
import type { MockUpItem } from '#shared/contracts/mock-ups.contract'
import { NOTHING_TRACED, type Part, type TracedPicture, TracerGroup } from '../../../components/tracing/tracer-group'
import type { MockUpCommand, MockUpNews } from '../../../workers/mock-up.worker'

/** Nothing happened for so long: it rests. */
const REST_MS = 700
const MAX_SAMPLES = 192
const TARGET_STEPS = 4
/** Shares of the width in which it is traced, one after the other: the first is there in a quarter of the time. */
const WIDTHS = [0.5, 1]

type OwnNews = Extract<MockUpNews, { kind: 'failed' }>

const makeWorker = () => new Worker(new URL('../../../workers/mock-up.worker.ts', import.meta.url), { type: 'module' })

export interface TracedView extends TracedPicture {
  /** Whether it shows what is there now. */
  isOfNow: boolean
  hasFailed: boolean
}

/**
 * Path-traces what the live view shows, once it rests, in the browser's workers.
 * @param isOn workers are there only while it is
 */
export function useTracedView(
  scene: Scene,
  shot: Shot,
  items: ReadonlyMap<string, MockUpItem>,
  width: number,
  isOn: boolean,
): TracedView {
  const group = useRef<TracerGroup<OwnNews> | null>(null)
  const told = useRef(new Set<string>())
  /** Starts of the same look at larger widths, which are still to come. */
  const larger = useRef<(() => void)[]>([])
  const [picture, setPicture] = useState(NOTHING_TRACED)
  const [hasFailed, setFailed] = useState(false)
  const [key, setKey] = useState('')
  useEffect(() => {
    if (!isOn) return
    const made = new TracerGroup<OwnNews>(
      makeWorker,
      traced => {
        const next = traced.state === 'rough' ? undefined : larger.current.shift()
        setPicture(shown => keepBetter(shown, next ? { ...traced, state: 'filtered' } : traced))
        next?.()
      },
      () => setFailed(true),
    )
    group.current = made
    told.current = new Set()
    return () => {
      made.close()
      group.current = null
      larger.current = []
      setPicture(NOTHING_TRACED)
    }
  }, [isOn])
  useEffect(() => {
    if (!isOn) return
    setKey('')
    setFailed(false)
    larger.current = []
    group.current?.stop()
    const timer = setTimeout(() => {
      const fresh = [...items.values()].filter(i => !told.current.has(i.ref.inputKey))
      for (const item of fresh) told.current.add(item.ref.inputKey)
      if (fresh.length > 0) group.current?.order({ kind: 'items', items: fresh } satisfies MockUpCommand)
      const next = Math.random().toString(36)
      setKey(next)
      const [first, ...rest] = WIDTHS.map(share => () => {
        group.current?.start(next, {
          kind: 'start',
          scene,
          shot,
          width: Math.max(64, Math.round((width * share) / 4) * 4),
          maxSamples: MAX_SAMPLES,
          noiseTarget: TARGET_STEPS / 255,
          guided: share === 1,
        } satisfies Omit<Extract<MockUpCommand, { kind: 'start' }>, keyof Part>)
      })
      larger.current = rest
      first()
    }, REST_MS)
    return () => clearTimeout(timer)
  }, [scene, shot, items, width, isOn])
  return { ...picture, isOfNow: key !== '' && picture.key === key, hasFailed }
}

/** A first look at a larger picture tells less than the smaller one does when that is filtered. */
const keepBetter = (shown: TracedPicture, traced: TracedPicture): TracedPicture =>
  traced.state === 'rough' && shown.key === traced.key && shown.state !== 'rough' ? shown : traced
