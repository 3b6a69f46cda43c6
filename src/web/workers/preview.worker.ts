import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { tileMeans } from '#core/render/film/tile'
import type { Rendering } from '#core/render/integrator/render'
import { type PreparedPreview, preparePreview } from '#core/render/pictures/preview'
import type { Rig } from '#core/render/rigs/rig'
import type { MipCache } from '#core/render/scene/scene'

/** Images once; then a start for every change of the material. One worker renders every `count`th tile. */
export type PreviewCommand =
  | { kind: 'images'; images: ByteImage[] }
  | {
      kind: 'start'
      run: number
      material: OpenPbrMaterial
      rig: Rig
      backdropAlbedo: number
      width: number
      maxSamples: number
      noiseTarget: number
      part: { index: number; count: number }
    }
  | { kind: 'stop' }

/** What a worker has so far: means of its tiles. */
export interface PreviewNews {
  run: number
  width: number
  height: number
  tiles: { x0: number; y0: number; width: number; height: number; data: Float32Array<ArrayBuffer> }[]
  /** Of this worker's part. */
  share: number
  samples: number
  done: boolean
}

const TELL_MS = 250
/** A slice of work between two looks at the messages. */
const SLICE_MS = 40

let images: ByteImage[] = []
let mipCache: MipCache = new Map()
let current: { run: number; prepared: PreparedPreview; rendering: Rendering } | null = null
let told = 0

self.onmessage = ({ data }: MessageEvent<PreviewCommand>) => {
  switch (data.kind) {
    case 'images':
      images = data.images
      mipCache = new Map()
      current = null
      return
    case 'stop':
      current = null
      return
    case 'start': {
      const { run, material, rig, backdropAlbedo, width, maxSamples, noiseTarget, part } = data
      const prepared = preparePreview(
        { kind: 'material', material, images },
        { rig, quality: { width, maxSamples, noiseTarget, denoised: false }, seed: 1, backdropAlbedo, mipCache },
      )
      current = { run, prepared, rendering: prepared.start(part) }
      told = 0
      setTimeout(work, 0)
      return
    }
    default:
      data satisfies never
  }
}

function work(): void {
  const job = current
  if (!job) return
  const until = performance.now() + SLICE_MS
  let more = true
  while (more && performance.now() < until) more = job.rendering.step()
  const firstPassDone = job.rendering.tiles.every(t => t.count > 0)
  if (!more || (firstPassDone && performance.now() - told > TELL_MS)) tell(job, !more)
  if (more) setTimeout(work, 0)
  else current = null
}

function tell({ run, prepared, rendering }: NonNullable<typeof current>, done: boolean): void {
  told = performance.now()
  const { width, height } = prepared.settings
  const tiles = rendering.tiles.map(t => ({
    x0: t.x0,
    y0: t.y0,
    width: t.width,
    height: t.height,
    data: tileMeans(t),
  }))
  const samples = rendering.tiles.reduce((sum, t) => sum + t.count * t.width * t.height, 0)
  const news: PreviewNews = { run, width, height, tiles, share: rendering.doneShare, samples, done }
  self.postMessage(news, { transfer: tiles.map(t => t.data.buffer) })
}
