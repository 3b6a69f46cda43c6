import type { ByteImage } from '#core/image/image'
import type { Tile } from '#core/render/film/tile'
import type { PicturedTile, TracingCommand, TracingNews } from '../../workers/tracing-loop'
import { toImageData } from './to-image-data'

export interface TracedPicture {
  image: ImageData | null
  /** What it is: a first look, one pass after another, or filtered with an error that is known. */
  state: 'rough' | 'filtered' | 'done'
  /** Largest error of display luminance that is left, 0..1; null before it can be told. */
  error: number | null
  seconds: number
  samplesAPixel: number
  /** Of the look that it shows. */
  key: string
}

export const NOTHING_TRACED: TracedPicture = {
  image: null,
  state: 'rough',
  error: null,
  seconds: 0,
  samplesAPixel: 0,
  key: '',
}

/** One core stays for the page where there are several; of two, the page needs one only for a moment now and then. */
const threadCount = (): number => Math.min(4, Math.max(2, (navigator.hardwareConcurrency ?? 2) - 1))

/** Which part of the tiles a worker traces, and for which start. */
export interface Part {
  run: number
  part: { index: number; count: number }
}

/** Workers that trace one picture together, each every nth tile; one of them filters the whole between rounds. Another start ends the one before. */
export class TracerGroup<Other extends { kind: string }> {
  private readonly workers: Worker[]
  private run = 0
  private round: Round
  private started = 0
  private key = ''

  /**
   * @param make a worker that runs a tracing loop
   * @param onNews what a worker says of its own, by its number
   */
  constructor(
    make: () => Worker,
    private readonly onPicture: (picture: TracedPicture) => void,
    private readonly onNews: (news: Other, index: number) => void = () => {},
  ) {
    this.workers = Array.from({ length: threadCount() }, (_, index) => {
      const worker = make()
      worker.onmessage = ({ data }: MessageEvent<TracingNews | Other>) => this.hear(index, data)
      return worker
    })
    this.round = new Round(this.workers.length)
  }

  /** Says something to every worker. */
  order(command: object): void {
    for (const worker of this.workers) worker.postMessage(command)
  }

  /** @param key comes back with the pictures of this start */
  start(key: string, command: object): void {
    this.run++
    this.key = key
    this.round = new Round(this.workers.length)
    this.started = performance.now()
    for (const [index, worker] of this.workers.entries())
      worker.postMessage({ ...command, run: this.run, part: { index, count: this.workers.length } } satisfies Part)
  }

  stop(): void {
    this.run++
    this.order({ kind: 'stop' } satisfies TracingCommand)
  }

  close(): void {
    for (const worker of this.workers) worker.terminate()
  }

  private tell(worker: number, command: TracingCommand, transfer: Transferable[] = []): void {
    this.workers[worker].postMessage(command, transfer)
  }

  private hear(index: number, news: TracingNews | Other): void {
    if (!isTracing(news)) {
      this.onNews(news, index)
      return
    }
    if (news.run !== this.run) return
    const { key } = this
    const seconds = (performance.now() - this.started) / 1000
    switch (news.kind) {
      case 'part': {
        const tiles = this.round.addPart(index, news.tiles)
        // Only whole pictures are shown, so that nothing flickers.
        if (tiles) this.onPicture({ ...NOTHING_TRACED, image: assemble(tiles, news), seconds, key })
        return
      }
      case 'round': {
        const tiles = this.round.addRound(index, news.tiles)
        if (tiles) this.tell(0, { kind: 'judge', run: news.run, tiles, settings: news.settings, workers: this.workers.length })
        return
      }
      case 'toFit': {
        const { run, worker, number, task } = news
        this.tell(worker, { kind: 'fit', run, number, task })
        return
      }
      case 'fitted': {
        const { run, number, rows } = news
        this.tell(0, { kind: 'fitted', run, number, rows }, [rows.buffer])
        return
      }
      case 'judged': {
        const { verdicts, width, height, data, samples } = news
        const isDone = verdicts.every(v => v.done)
        this.onPicture({
          image: toImageData({ width, height, channels: 3, data }),
          state: isDone ? 'done' : 'filtered',
          error: verdicts.reduce((most, v) => Math.max(most, v.error), 0),
          seconds,
          samplesAPixel: samples / (width * height),
          key,
        })
        this.round = new Round(this.workers.length)
        if (!isDone) this.order({ kind: 'goOn', run: news.run, verdicts } satisfies TracingCommand)
        return
      }
      default:
        news satisfies never
    }
  }
}

const TRACING = ['part', 'round', 'toFit', 'fitted', 'judged'] satisfies TracingNews['kind'][]
const isTracing = (news: { kind: string }): news is TracingNews => (TRACING as string[]).includes(news.kind)

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
  const image: ByteImage = { width, height, channels: 3, data: new Uint8Array(width * height * 3) }
  for (const tile of tiles)
    for (let y = 0; y < tile.height; y++)
      image.data.set(tile.data.subarray(y * tile.width * 3, (y + 1) * tile.width * 3), ((tile.y0 + y) * width + tile.x0) * 3)
  return toImageData(image)
}
