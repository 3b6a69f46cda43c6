import { parseGlb } from '#core/geometry/read-gltf'
import type { ByteImage } from '#core/image/image'
import type { OpenPbrMaterial } from '#core/material/open-pbr'
import type { Camera, Orbit } from '#core/render/film/camera'
import { judgeTiles } from '#core/render/film/judge-tiles'
import { type Tile, tileMeans } from '#core/render/film/tile'
import { assembleTiles, type Rendering, type RenderSettings } from '#core/render/integrator/render'
import { objectsOfModel } from '#core/render/pictures/model-objects'
import { StandingStage } from '#core/render/pictures/standing-stage'
import { PREVIEW_ASPECT, type Rig } from '#core/render/rigs/rig'
import type { StageableSubject } from '#core/render/stages/stage-subject'
import { readPixels } from './read-pixels'

/** How far a tile has come, as whoever has all of them says. */
export type Verdict = Pick<Tile, 'x0' | 'y0' | 'error' | 'done' | 'goal' | 'filtered'>

/** What is looked at; a model is fetched and read by the worker itself. */
export type TracedSubject = { kind: 'material'; images: ByteImage[]; material: OpenPbrMaterial } | { kind: 'model'; url: string }

/**
 * The subject once; then a start for every change of the material or the point of view. One worker renders every `count`th tile, up to the tiles' goals; when all
 * have come so far, one of them judges the tiles of all, and what it says lets them go on.
 */
export type PreviewCommand =
  | { kind: 'subject'; subject: TracedSubject; rig: Rig; backdropAlbedo: number }
  | {
      kind: 'start'
      run: number
      material: OpenPbrMaterial | null
      orbit: Orbit
      width: number
      maxSamples: number
      noiseTarget: number
      part: { index: number; count: number }
    }
  | { kind: 'judge'; run: number; tiles: Tile[]; settings: RenderSettings }
  | { kind: 'goOn'; run: number; verdicts: Verdict[] }
  | { kind: 'stop' }

/** What a worker has so far. */
export type PreviewNews = PictureNews | { kind: 'staged'; camera: Camera; pivot: Camera['position'] } | { kind: 'failed' }
type PictureNews = { run: number; width: number; height: number } & (
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

let stage: Promise<StandingStage | null> = Promise.resolve(null)
/** The run that was asked for last: what waits for the stage starts only if nothing came after it. */
let wanted = 0
let current: { run: number; rendering: Rendering; isPictured: boolean } | null = null
let isScheduled = false

self.onmessage = ({ data }: MessageEvent<PreviewCommand>) => {
  switch (data.kind) {
    case 'subject':
      current = null
      stage = setUp(data.subject, data.rig, data.backdropAlbedo)
      return
    case 'stop':
      wanted = 0
      current = null
      return
    case 'start':
      wanted = data.run
      void start(data)
      return
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

async function setUp(subject: TracedSubject, rig: Rig, backdropAlbedo: number): Promise<StandingStage | null> {
  try {
    const made = new StandingStage(await open(subject), rig, backdropAlbedo)
    say({ kind: 'staged', camera: made.camera, pivot: made.pivot })
    return made
  } catch {
    say({ kind: 'failed' })
    return null
  }
}

async function open(subject: TracedSubject): Promise<StageableSubject> {
  if (subject.kind === 'material') return subject
  const response = await fetch(subject.url)
  if (!response.ok) throw new Error(`the model answered ${response.status}`)
  const model = await parseGlb(new Uint8Array(await response.arrayBuffer()))
  const images = await Promise.all(model.images.map(({ bytes }) => readPixels(new Blob([bytes as BlobPart]))))
  return { kind: 'model', objects: objectsOfModel(model, images) }
}

async function start({ run, material, orbit, width, maxSamples, noiseTarget, part }: PreviewCommand & { kind: 'start' }) {
  const standing = await stage
  if (!standing || wanted !== run) return
  const height = Math.round(width / PREVIEW_ASPECT)
  const settings = { width, height, seed: 1, maxSamples, noiseTarget, denoised: true, background: null }
  const rendering = standing.start(settings, { orbit, ...(material ? { material } : {}) }, part)
  current = { run, rendering, isPictured: false }
  const sketch = rendering.sketch(SKETCH_BLOCK)
  tellPart(current, k => sketch[k])
  schedule()
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
    say({ ...headOf(job), kind: 'round', tiles, settings: job.rendering.settings })
    return
  }
  // Between this and the first filtered picture there is nothing that is worth the page's time.
  if (!job.isPictured && tiles.every(t => t.count > 0)) {
    job.isPictured = true
    tellPart(job, k => tileMeans(tiles[k]))
  }
  schedule()
}

const headOf = ({ run, rendering }: NonNullable<typeof current>) => ({
  run,
  width: rendering.settings.width,
  height: rendering.settings.height,
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
