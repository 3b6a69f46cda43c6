import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import { judgeTiles } from '#core/render/film/judge-tiles'
import { type Tile, tileMeans } from '#core/render/film/tile'
import { assembleTiles, type Rendering, type RenderSettings } from '#core/render/integrator/render'
import { type PreparedPreview, preparePreview } from '#core/render/pictures/preview'
import type { Rig } from '#core/render/rigs/rig'
import type { MipCache } from '#core/render/scene/scene'

/** How far a tile has come, as whoever has all of them says. */
export type Verdict = Pick<Tile, 'x0' | 'y0' | 'error' | 'done' | 'goal' | 'filtered'>

/**
 * Images once; then a start for every change of the material. One worker renders every `count`th tile, up to the tiles' goals; when all
 * have come so far, one of them judges the tiles of all, and what it says lets them go on.
 */
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
  | { kind: 'judge'; run: number; tiles: Tile[]; settings: RenderSettings }
  | { kind: 'goOn'; run: number; verdicts: Verdict[] }
  | { kind: 'stop' }

/** What a worker has so far. */
export type PreviewNews = { run: number; width: number; height: number } & (
  | { kind: 'part'; tiles: PicturedTile[] }
  /** Its tiles are as far as they were to come. */
  | { kind: 'round'; tiles: Tile[]; settings: RenderSettings }
  /** The picture of all, filtered. */
  | { kind: 'judged'; data: Float32Array<ArrayBuffer>; verdicts: Verdict[]; samples: number }
)

/** Linear RGB, 3 a pixel. */
export interface PicturedTile {
  x0: number
  y0: number
  width: number
  height: number
  data: Float32Array<ArrayBuffer>
}

/** A slice of work between two looks at the messages. */
const SLICE_MS = 40
/** The first look has one sample for so many pixels in each direction. */
const SKETCH_BLOCK = 4

let images: ByteImage[] = []
let mipCache: MipCache = new Map()
let current: { run: number; prepared: PreparedPreview; rendering: Rendering; isPictured: boolean } | null = null
let isScheduled = false

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
        { rig, quality: { width, maxSamples, noiseTarget, denoised: true }, seed: 1, backdropAlbedo, mipCache },
      )
      const rendering = prepared.start(part, null, { judgesItself: false })
      current = { run, prepared, rendering, isPictured: false }
      const sketch = rendering.sketch(SKETCH_BLOCK)
      tellPart(current, k => sketch[k])
      schedule()
      return
    }
    case 'judge': {
      const { run, tiles, settings } = data
      judgeTiles(tiles, settings)
      const { width, height, data: picture } = assembleTiles(tiles, settings)
      const verdicts = tiles.map(({ x0, y0, error, done, goal, filtered }) => ({ x0, y0, error, done, goal, filtered }))
      const samples = tiles.reduce((sum, t) => sum + t.count * t.width * t.height, 0)
      say({ run, width, height, kind: 'judged', data: picture as Float32Array<ArrayBuffer>, verdicts, samples }, [picture.buffer])
      return
    }
    case 'goOn': {
      if (current?.run !== data.run) return
      const byPlace = new Map(data.verdicts.map(v => [`${v.x0}/${v.y0}`, v]))
      for (const tile of current.rendering.tiles) Object.assign(tile, byPlace.get(`${tile.x0}/${tile.y0}`))
      schedule()
      return
    }
    default:
      data satisfies never
  }
}

/** One line of work at a time, whatever comes in meanwhile. */
function schedule(): void {
  if (isScheduled) return
  isScheduled = true
  setTimeout(work, 0)
}

function work(): void {
  isScheduled = false
  const job = current
  if (!job) return
  const until = performance.now() + SLICE_MS
  let more = true
  while (more && performance.now() < until) more = job.rendering.step()
  const { tiles } = job.rendering
  if (!more) {
    // Copied on the way: the tiles go on here.
    say({ ...headOf(job), kind: 'round', tiles, settings: job.prepared.settings })
    return
  }
  // Between this and the first filtered picture there is nothing that is worth the page's time.
  if (!job.isPictured && tiles.every(t => t.count > 0)) {
    job.isPictured = true
    tellPart(job, k => tileMeans(tiles[k]))
  }
  schedule()
}

const headOf = ({ run, prepared }: NonNullable<typeof current>) => ({
  run,
  width: prepared.settings.width,
  height: prepared.settings.height,
})

function tellPart(job: NonNullable<typeof current>, dataOf: (tile: number) => Float32Array<ArrayBuffer>): void {
  const tiles = job.rendering.tiles.map(({ x0, y0, width, height }, k) => ({ x0, y0, width, height, data: dataOf(k) }))
  say(
    { ...headOf(job), kind: 'part', tiles },
    tiles.map(t => t.data.buffer),
  )
}

function say(news: PreviewNews, transfer: Transferable[] = []): void {
  self.postMessage(news, { transfer })
}
