import type { ByteImage, FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { judgeTiles } from '#core/render/film/judge-tiles'
import { type Tile, tileMeans } from '#core/render/film/tile'
import { assembleTiles, type Rendering, type RenderSettings } from '#core/render/integrator/render'

/** How far a tile has come, as whoever has all of them says. */
export type Verdict = Pick<Tile, 'x0' | 'y0' | 'error' | 'done' | 'goal' | 'filtered'>

/** As it is shown: sRGB, 3 a pixel. */
export interface PicturedTile {
  x0: number
  y0: number
  width: number
  height: number
  data: Uint8Array<ArrayBuffer>
}

/**
 * One worker renders every `count`th tile, up to the tiles' goals; when all have come so far, one of them judges the tiles of all, and what it
 * says lets them go on.
 */
export type TracingCommand =
  | { kind: 'judge'; run: number; tiles: Tile[]; settings: RenderSettings }
  | { kind: 'goOn'; run: number; verdicts: Verdict[] }
  | { kind: 'stop' }

/** What a worker has so far. */
export type TracingNews = { run: number; width: number; height: number } & (
  | { kind: 'part'; tiles: PicturedTile[] }
  /** Its tiles are as far as they were to come. */
  | { kind: 'round'; tiles: Tile[]; settings: RenderSettings }
  /** The picture of all, filtered, as it is shown. */
  | { kind: 'judged'; data: Uint8Array<ArrayBuffer>; verdicts: Verdict[]; samples: number }
)

/** A slice of work between two looks at the messages. */
const SLICE_MS = 40
/** The first look has one sample for so many pixels in each direction. */
const SKETCH_BLOCK = 4

interface Job {
  run: number
  rendering: Rendering
  isPictured: boolean
}

/** Traces in slices, so that a worker hears what is said to it; one rendering at a time, the newest. */
export class TracingLoop {
  private current: Job | null = null
  private isScheduled = false

  constructor(private readonly say: (news: TracingNews, transfer?: Transferable[]) => void) {}

  begin(run: number, rendering: Rendering): void {
    this.current = { run, rendering, isPictured: false }
    const sketch = rendering.sketch(SKETCH_BLOCK)
    this.tellPart(this.current, k => sketch[k])
    this.schedule()
  }

  stop(): void {
    this.current = null
  }

  hear(command: TracingCommand): void {
    switch (command.kind) {
      case 'stop':
        this.stop()
        return
      case 'judge': {
        const { run, tiles, settings } = command
        judgeTiles(tiles, settings)
        const { width, height, data } = display(assembleTiles(tiles, settings))
        const verdicts = tiles.map(({ x0, y0, error, done, goal, filtered }) => ({ x0, y0, error, done, goal, filtered }))
        const samples = tiles.reduce((sum, t) => sum + t.count * t.width * t.height, 0)
        this.say({ run, width, height, kind: 'judged', data, verdicts, samples }, [data.buffer])
        return
      }
      case 'goOn': {
        if (this.current?.run !== command.run) return
        const byPlace = new Map(command.verdicts.map(v => [`${v.x0}/${v.y0}`, v]))
        for (const tile of this.current.rendering.tiles) Object.assign(tile, byPlace.get(`${tile.x0}/${tile.y0}`))
        this.schedule()
        return
      }
      default:
        command satisfies never
    }
  }

  /** One line of work at a time, whatever comes in meanwhile. */
  private schedule(): void {
    if (this.isScheduled) return
    this.isScheduled = true
    setTimeout(() => this.work(), 0)
  }

  private work(): void {
    this.isScheduled = false
    const job = this.current
    if (!job) return
    const until = performance.now() + SLICE_MS
    let more = true
    while (more && performance.now() < until) more = job.rendering.step()
    const { tiles } = job.rendering
    if (!more) {
      // Copied on the way: the tiles go on here.
      this.say({ ...headOf(job), kind: 'round', tiles, settings: job.rendering.settings })
      return
    }
    // Between this and the first filtered picture there is nothing that is worth the page's time.
    if (!job.isPictured && tiles.every(t => t.count > 0)) {
      job.isPictured = true
      this.tellPart(job, k => tileMeans(tiles[k]))
    }
    this.schedule()
  }

  private tellPart(job: Job, dataOf: (tile: number) => Float32Array<ArrayBuffer>): void {
    const tiles = job.rendering.tiles.map(({ x0, y0, width, height }, k) => ({
      x0,
      y0,
      width,
      height,
      data: display({ width, height, data: dataOf(k) }).data,
    }))
    this.say(
      { ...headOf(job), kind: 'part', tiles },
      tiles.map(t => t.data.buffer),
    )
  }
}

const display = (linear: Omit<FloatImage, 'channels'>) =>
  developForDisplay({ ...linear, channels: 3 }) as ByteImage & { data: Uint8Array<ArrayBuffer> }

const headOf = ({ run, rendering }: Job) => ({
  run,
  width: rendering.settings.width,
  height: rendering.settings.height,
})
