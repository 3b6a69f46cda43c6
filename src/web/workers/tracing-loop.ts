import type { ByteImage, FloatImage } from '#core/image/image'
import { developForDisplay } from '#core/render/film/develop'
import { type FitTask, fitRows } from '#core/render/film/fit-rows'
import { prepareJudging } from '#core/render/film/judge-tiles'
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
 * One worker renders every `count`th tile, up to the tiles' goals; when all have come so far, one of them judges the tiles of all, for which the
 * others filter their share, and what it says lets them go on.
 */
export type TracingCommand =
  | { kind: 'judge'; run: number; tiles: Tile[]; settings: RenderSettings; workers: number }
  | { kind: 'fit'; run: number; number: number; task: FitTask }
  | ({ kind: 'fitted'; run: number } & Fitted)
  | { kind: 'goOn'; run: number; verdicts: Verdict[] }
  | { kind: 'stop' }

/** A filtered part, by its number in a judgement. */
interface Fitted {
  number: number
  rows: Float32Array<ArrayBuffer>
}

/** What a worker has so far. */
export type TracingNews = { run: number; width: number; height: number } & (
  | { kind: 'part'; tiles: PicturedTile[] }
  /** Its tiles are as far as they were to come. */
  | { kind: 'round'; tiles: Tile[]; settings: RenderSettings }
  /** A part to be filtered by another worker, and what became of it. */
  | { kind: 'toFit'; worker: number; number: number; task: FitTask }
  | ({ kind: 'fitted' } & Fitted)
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

/** The judge's own: what is filtered so far, and what is left when all of it is. */
interface Judgement {
  run: number
  settings: RenderSettings
  fitted: Float32Array[]
  missing: number
  end: (fitted: readonly Float32Array[]) => void
}

/** Traces in slices, so that a worker hears what is said to it; one rendering at a time, the newest. */
export class TracingLoop {
  private current: Job | null = null
  private isScheduled = false
  private judgement: Judgement | null = null

  constructor(private readonly say: (news: TracingNews, transfer?: Transferable[]) => void) {}

  begin(run: number, rendering: Rendering): void {
    this.current = { run, rendering, isPictured: false }
    this.judgement = null
    const sketch = rendering.sketch(SKETCH_BLOCK)
    this.tellPart(this.current, k => sketch[k])
    this.schedule()
  }

  stop(): void {
    this.current = null
    this.judgement = null
  }

  hear(command: TracingCommand): void {
    switch (command.kind) {
      case 'stop':
        this.stop()
        return
      case 'judge':
        this.judge(command)
        return
      case 'fit': {
        if (this.current?.run !== command.run) return
        const rows = fitRows(command.task)
        this.say({ ...headOf(this.current), kind: 'fitted', number: command.number, rows }, [rows.buffer])
        return
      }
      case 'fitted':
        if (this.judgement?.run === command.run) this.addFitted(this.judgement, command)
        return
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

  private judge({ run, tiles, settings, workers }: Extract<TracingCommand, { kind: 'judge' }>): void {
    const { width, height } = settings
    const { tasks, judge } = prepareJudging(tiles, settings)
    const end = (fitted: readonly Float32Array[]) => {
      judge(fitted)
      const { data } = display(assembleTiles(tiles, settings))
      const verdicts = tiles.map(({ x0, y0, error, done, goal, filtered }) => ({ x0, y0, error, done, goal, filtered }))
      const samples = tiles.reduce((sum, t) => sum + t.count * t.width * t.height, 0)
      this.say({ run, width, height, kind: 'judged', data, verdicts, samples }, [data.buffer])
    }
    const judgement: Judgement = { run, settings, fitted: [], missing: tasks.length, end }
    this.judgement = judgement
    const own = new Map<number, FitTask>()
    for (const [number, worker] of share(tasks, workers).entries()) {
      const task = tasks[number]
      if (worker === 0) own.set(number, task)
      else this.say({ run, width, height, kind: 'toFit', worker, number, task }, buffersOf(task))
    }
    const fitNext = (): void => {
      // Between two parts what is said is heard: perhaps that this is no longer wanted.
      if (this.judgement !== judgement) return
      const [next] = own
      if (!next) return
      const [number, task] = next
      own.delete(number)
      this.addFitted(judgement, { number, rows: fitRows(task) })
      setTimeout(fitNext, 0)
    }
    fitNext()
  }

  private addFitted(judgement: Judgement, { number, rows }: Fitted): void {
    judgement.fitted[number] = rows
    judgement.missing--
    if (judgement.missing > 0) return
    this.judgement = null
    judgement.end(judgement.fitted)
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

/** Which worker fits each of the tasks: the one that has least to do so far. */
function share(tasks: readonly FitTask[], workers: number): number[] {
  const pixels = Array.from({ length: workers }, () => 0)
  return tasks.map(({ width, from, until }) => {
    const least = pixels.indexOf(Math.min(...pixels))
    pixels[least] += width * (until - from)
    return least
  })
}

const buffersOf = ({ color, features, guide, spread, wanted }: FitTask): Transferable[] =>
  [color, features, guide, spread, ...(wanted ? [wanted] : [])].map(data => data.buffer as ArrayBuffer)

const display = (linear: Omit<FloatImage, 'channels'>) =>
  developForDisplay({ ...linear, channels: 3 }) as ByteImage & { data: Uint8Array<ArrayBuffer> }

const headOf = ({ run, rendering }: Job) => ({
  run,
  width: rendering.settings.width,
  height: rendering.settings.height,
})
