import { useEffect, useRef, useState } from 'react'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import type { Orbit } from '#core/render/film/camera'
import type { Rig } from '#core/render/rigs/rig'
import { NOTHING_TRACED, type Part, type TracedPicture, TracerGroup } from '../../../components/tracing/tracer-group'
import type { PreviewCommand, PreviewNews, TracedSubject } from '../../../workers/preview.worker'

export type { TracedPicture }

const MAX_SAMPLES = 256
/** The error at which it is done, in steps of an 8-bit display. */
export const TARGET_STEPS = 3

/** As many pixels as are shown of an element, up to `most`: 0 as long as there is none. */
export const shownWidthOf = (element: HTMLElement | null, most: number): number =>
  element ? Math.min(most, Math.round(element.clientWidth * devicePixelRatio)) : 0

export interface TracedLook {
  /** Of a material: what it is at the moment. */
  material: OpenPbrMaterial | null
  orbit: Orbit
}

type OwnNews = Extract<PreviewNews, { kind: 'staged' | 'failed' }>

const makeWorker = () => new Worker(new URL('../../../workers/preview.worker.ts', import.meta.url), { type: 'module' })

/**
 * Path-traces an item on its rig in web workers; starts anew whenever the look at it changes.
 * @param subject null as long as there is none to trace; another one sets the workers up anew
 * @param look null stops the tracing and keeps the picture
 */
export function useTracedPicture(
  subject: TracedSubject | null,
  look: TracedLook | null,
  rig: Rig,
  backdropAlbedo: number,
  /** In pixels. */
  width: number,
): TracedPicture & { isOfThisLook: boolean; hasFailed: boolean } {
  const group = useRef<TracerGroup<OwnNews> | null>(null)
  const [picture, setPicture] = useState(NOTHING_TRACED)
  const [hasFailed, setFailed] = useState(false)
  useEffect(() => {
    if (!subject) return
    setFailed(false)
    const made = new TracerGroup<OwnNews>(makeWorker, setPicture, news => news.kind === 'failed' && setFailed(true))
    made.order({ kind: 'subject', subject, rig, backdropAlbedo } satisfies PreviewCommand)
    group.current = made
    return () => {
      made.close()
      group.current = null
    }
  }, [subject, rig, backdropAlbedo])
  const key = JSON.stringify(look)
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the look
  useEffect(() => {
    if (!subject) return
    if (!look) return group.current?.stop()
    group.current?.start(key, {
      kind: 'start',
      ...look,
      width: Math.max(64, Math.round(width / 4) * 4),
      maxSamples: MAX_SAMPLES,
      noiseTarget: TARGET_STEPS / 255,
    } satisfies Omit<Extract<PreviewCommand, { kind: 'start' }>, keyof Part>)
  }, [subject, key, rig, backdropAlbedo])
  // What shows another look is still there, for whoever has nothing better to show.
  return { ...picture, isOfThisLook: picture.key === key, hasFailed }
}
