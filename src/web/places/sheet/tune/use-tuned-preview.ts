import { useEffect, useRef, useState } from 'react'
import { createFloatImage } from '#core/image/image'
import type { OpenPbrParameters } from '#core/material/open-pbr'
import { developForDisplay } from '#core/render/film/develop'
import type { Rig } from '#core/render/rigs/rig'
import type { PreviewCommand, PreviewNews } from '../../../workers/preview.worker'
import { toImageData } from '../../compare/load-picture'
import type { TunableMaterial } from './load-material'

export interface TunedPicture {
  image: ImageData | null
  /** 0..1 of the samples it may take. */
  share: number
  seconds: number
  samplesAPixel: number
}

const WIDTH = 320
const MAX_SAMPLES = 512
/** One core stays for the page. */
const threadCount = (): number => Math.min(4, Math.max(1, (navigator.hardwareConcurrency ?? 2) - 1))

/** Path-traces the material in web workers, each with every nth tile; starts anew whenever the constants change. */
export function useTunedPreview(
  material: TunableMaterial | null,
  constants: Partial<OpenPbrParameters>,
  rig: Rig,
  backdropAlbedo: number,
): TunedPicture {
  const workers = useRef<Worker[]>([])
  const run = useRef(0)
  const parts = useRef<(PreviewNews | null)[]>([])
  const started = useRef(0)
  const [picture, setPicture] = useState<TunedPicture>({ image: null, share: 0, seconds: 0, samplesAPixel: 0 })
  useEffect(() => {
    if (!material) return
    const count = threadCount()
    const made = Array.from({ length: count }, (_, index) => {
      const worker = new Worker(new URL('../../../workers/preview.worker.ts', import.meta.url), { type: 'module' })
      worker.onmessage = ({ data }: MessageEvent<PreviewNews>) => {
        if (data.run !== run.current) return
        parts.current[index] = data
        // Only whole pictures are shown, so that nothing flickers.
        const news = parts.current.filter(p => p !== null)
        if (news.length === count) setPicture(assemble(news, (performance.now() - started.current) / 1000))
      }
      worker.postMessage({ kind: 'images', images: material.images } satisfies PreviewCommand)
      return worker
    })
    workers.current = made
    return () => {
      for (const worker of made) worker.terminate()
      workers.current = []
    }
  }, [material])
  const key = JSON.stringify(constants)
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the constants
  useEffect(() => {
    if (!material) return
    const list = workers.current
    run.current++
    parts.current = list.map(() => null)
    started.current = performance.now()
    for (const [index, worker] of list.entries())
      worker.postMessage({
        kind: 'start',
        run: run.current,
        material: material.build(constants),
        rig,
        backdropAlbedo,
        width: WIDTH,
        maxSamples: MAX_SAMPLES,
        noiseTarget: rig.final.noiseSteps / 255,
        part: { index, count: list.length },
      } satisfies PreviewCommand)
  }, [material, key, rig, backdropAlbedo])
  return picture
}

function assemble(parts: readonly PreviewNews[], seconds: number): TunedPicture {
  const { width, height } = parts[0]
  const image = createFloatImage(width, height, 3)
  let share = 0
  let samples = 0
  for (const part of parts) {
    share += part.share / parts.length
    samples += part.samples
    for (const tile of part.tiles)
      for (let y = 0; y < tile.height; y++)
        image.data.set(tile.data.subarray(y * tile.width * 3, (y + 1) * tile.width * 3), ((tile.y0 + y) * width + tile.x0) * 3)
  }
  return { image: toImageData(developForDisplay(image)), share, seconds, samplesAPixel: samples / (width * height) }
}
