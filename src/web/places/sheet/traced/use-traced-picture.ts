import { useEffect, useRef, useState } from 'react'
import { createFloatImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import type { Orbit } from '#core/render/film/camera'
import { developForDisplay } from '#core/render/film/develop'
import type { Tile } from '#core/render/film/tile'
import type { Rig } from '#core/render/rigs/rig'
import type { PicturedTile, PreviewCommand, PreviewNews, TracedSubject } from '../../../workers/preview.worker'
import { toImageData } from '../../compare/load-picture'

export interface TracedPicture {
  image: ImageData | null
  /** What it is: a first look, one pass after another, or filtered with an error that is known. */
  state: 'rough' | 'filtered' | 'done'
  /** Largest error of display luminance that is left, 0..1; null before it can be told. */
  error: number | null
  seconds: number
  samplesAPixel: number
}

/** With the look that it shows. */
type KeyedPicture = TracedPicture & { key: string }

const NOTHING: KeyedPicture = { image: null, state: 'rough', error: null, seconds: 0, samplesAPixel: 0, key: '' }
const WIDTH = 512
const MAX_SAMPLES = 256
/** The error at which it is done, in steps of an 8-bit display. */
const TARGET_STEPS = 3
/** One core stays for the page where there are several; of two, the page needs one only for a moment now and then. */
const threadCount = (): number => Math.min(4, Math.max(2, (navigator.hardwareConcurrency ?? 2) - 1))

export interface TracedLook {
  /** Of a material: what it is at the moment. */
  material: OpenPbrMaterial | null
  orbit: Orbit
}

/**
 * Path-traces an item on its rig in web workers, each with every nth tile, and has one of them filter the whole between rounds; starts
 * anew whenever the look at it changes.
 * @param subject null as long as there is none to trace; another one sets the workers up anew
 * @param look null stops the tracing and keeps the picture
 */
export function useTracedPicture(
  subject: TracedSubject | null,
  look: TracedLook | null,
  rig: Rig,
  backdropAlbedo: number,
  /** In pixels, multiple of 4. */
  width = WIDTH,
): TracedPicture & { isOfThisLook: boolean; hasFailed: boolean } {
  const workers = useRef<Worker[]>([])
  const run = useRef(0)
  const round = useRef(new Round(0))
  const started = useRef(0)
  const asked = useRef('')
  const [picture, setPicture] = useState(NOTHING)
  const [hasFailed, setFailed] = useState(false)
  useEffect(() => {
    if (!subject) return
    setFailed(false)
    const count = threadCount()
    const order = (worker: Worker, command: PreviewCommand) => worker.postMessage(command)
    const hear = (index: number, news: PreviewNews) => {
      if (news.kind === 'failed') return setFailed(true)
      if (news.kind === 'staged' || news.run !== run.current) return
      const seconds = (performance.now() - started.current) / 1000
      switch (news.kind) {
        case 'part': {
          const tiles = round.current.addPart(index, news.tiles)
          // Only whole pictures are shown, so that nothing flickers.
          if (tiles) setPicture({ ...NOTHING, image: assemble(tiles, news), seconds, key: asked.current })
          return
        }
        case 'round': {
          const tiles = round.current.addRound(index, news.tiles)
          if (tiles) order(made[0], { kind: 'judge', run: news.run, tiles, settings: news.settings })
          return
        }
        case 'judged': {
          const { verdicts, width, height, data, samples } = news
          const isDone = verdicts.every(v => v.done)
          setPicture({
            image: toImageData(developForDisplay({ width, height, channels: 3, data })),
            state: isDone ? 'done' : 'filtered',
            error: verdicts.reduce((most, v) => Math.max(most, v.error), 0),
            seconds,
            samplesAPixel: samples / (width * height),
            key: asked.current,
          })
          round.current = new Round(count)
          if (!isDone) for (const worker of made) order(worker, { kind: 'goOn', run: news.run, verdicts })
          return
        }
        default:
          news satisfies never
      }
    }
    const made = Array.from({ length: count }, (_, index) => {
      const worker = new Worker(new URL('../../../workers/preview.worker.ts', import.meta.url), { type: 'module' })
      worker.onmessage = ({ data }: MessageEvent<PreviewNews>) => hear(index, data)
      order(worker, { kind: 'subject', subject, rig, backdropAlbedo })
      return worker
    })
    workers.current = made
    return () => {
      for (const worker of made) worker.terminate()
      workers.current = []
    }
  }, [subject, rig, backdropAlbedo])
  const key = JSON.stringify(look)
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key stands for the look
  useEffect(() => {
    if (!subject) return
    const list = workers.current
    run.current++
    asked.current = key
    round.current = new Round(list.length)
    started.current = performance.now()
    for (const [index, worker] of list.entries())
      worker.postMessage(
        (look
          ? {
              kind: 'start',
              run: run.current,
              ...look,
              width: Math.max(64, Math.round(width / 4) * 4),
              maxSamples: MAX_SAMPLES,
              noiseTarget: TARGET_STEPS / 255,
              part: { index, count: list.length },
            }
          : { kind: 'stop' }) satisfies PreviewCommand,
      )
  }, [subject, key, rig, backdropAlbedo])
  // What shows another look is still there, for whoever has nothing better to show.
  return { ...picture, isOfThisLook: picture.key === key, hasFailed }
}

/** What the workers have sent of a round, until all have. */
class Round {
  private readonly parts: (PicturedTile[] | null)[]
  private readonly rounds: (Tile[] | null)[]

  constructor(count: number) {
    this.parts = Array.from({ length: count }, () => null)
    this.rounds = Array.from({ length: count }, () => null)
  }

  addPart(index: number, tiles: PicturedTile[]): PicturedTile[] | null {
    this.parts[index] = tiles
    return this.parts.every(p => p !== null) ? this.parts.flat() : null
  }

  /** The tiles of all, row by row. */
  addRound(index: number, tiles: Tile[]): Tile[] | null {
    this.rounds[index] = tiles
    return this.rounds.every(r => r !== null) ? this.rounds.flat().sort((a, b) => a.y0 - b.y0 || a.x0 - b.x0) : null
  }
}

function assemble(tiles: readonly PicturedTile[], { width, height }: { width: number; height: number }): ImageData {
  const image = createFloatImage(width, height, 3)
  for (const tile of tiles)
    for (let y = 0; y < tile.height; y++)
      image.data.set(tile.data.subarray(y * tile.width * 3, (y + 1) * tile.width * 3), ((tile.y0 + y) * width + tile.x0) * 3)
  return toImageData(developForDisplay(image))
}
