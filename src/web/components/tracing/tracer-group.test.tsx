import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import type { Tile } from '#core/render/film/tile'
import { PlainImageData, ToldWorker } from '../../testing/stand-ins-of-browser'
import type { TracingNews } from '../../workers/tracing-loop'
import { type TracedPicture, TracerGroup } from './tracer-group'

type Order = { kind?: string; run?: number; part?: { index: number; count: number }; tiles?: Tile[] }

let workers: ToldWorker<Order, unknown>[]
let pictures: TracedPicture[]
let news: { kind: string; from: number }[]

beforeEach(() => {
  ;[workers, pictures, news] = [[], [], []]
  vi.stubGlobal('navigator', { hardwareConcurrency: 4 })
  vi.stubGlobal('ImageData', PlainImageData)
})
afterEach(() => vi.unstubAllGlobals())

const begin = () =>
  new TracerGroup<{ kind: 'ready' }>(
    () => {
      const worker = new ToldWorker<Order, unknown>()
      workers.push(worker)
      return worker as unknown as Worker
    },
    picture => pictures.push(picture),
    ({ kind }, from) => news.push({ kind, from }),
  )
const say = (from: number, of: object) => workers[from].onmessage?.({ data: { width: 2, height: 3, ...of } })
/** A row of two pixels. */
const row = (y0: number, value: number) => ({ x0: 0, y0, width: 2, height: 1, data: new Uint8Array(6).fill(value) })
const verdict = (done: boolean, error: number) => ({ x0: 0, y0: 0, error, done, goal: 8, filtered: null })
const judged = (run: number, verdicts: ReturnType<typeof verdict>[]): Partial<TracingNews> => ({
  ...{ kind: 'judged', run, verdicts, samples: 24 },
  data: new Uint8Array(18).fill(9),
})

describe('workers that trace one picture', () => {
  it('are as many as there are cores but one, each with its part', () => {
    const group = begin()
    group.start('first', { what: 'oak' })
    expect(workers.map(w => w.orders)).toEqual([0, 1, 2].map(index => [{ what: 'oak', run: 1, part: { index, count: 3 } }]))
  })

  it('show only what is whole, joined from their parts', () => {
    const group = begin()
    group.start('first', {})
    say(0, { kind: 'part', run: 1, tiles: [row(0, 10)] })
    say(2, { kind: 'part', run: 1, tiles: [row(2, 30)] })
    expect(pictures).toEqual([])
    say(1, { kind: 'part', run: 1, tiles: [row(1, 20)] })
    expect(pictures).toHaveLength(1)
    expect(pictures[0]).toMatchObject({ key: 'first', state: 'rough', error: null })
    expect([...pictures[0].image!.data].filter((_, i) => i % 4 === 0)).toEqual([10, 10, 20, 20, 30, 30])
  })

  it('have one of them judge the tiles of all, row by row, and go on by what it says until all is done', () => {
    const group = begin()
    group.start('first', {})
    const tile = (y0: number) => ({ x0: 0, y0 }) as Tile
    for (const [from, y0] of [
      [0, 1],
      [1, 2],
      [2, 0],
    ])
      say(from, { kind: 'round', run: 1, tiles: [tile(y0)], settings: {} })
    expect(workers[0].orders.at(-1)).toMatchObject({ kind: 'judge', run: 1, workers: 3, tiles: [tile(0), tile(1), tile(2)] })
    // The judge has the others filter, and gets what they have.
    const task = { width: 2, height: 3 }
    say(0, { kind: 'toFit', run: 1, worker: 2, number: 4, task })
    expect(workers[2].orders.at(-1)).toEqual({ kind: 'fit', run: 1, number: 4, task })
    const rows = new Float32Array(6)
    say(2, { kind: 'fitted', run: 1, number: 4, rows })
    expect(workers[0].orders.at(-1)).toEqual({ kind: 'fitted', run: 1, number: 4, rows })
    say(0, judged(1, [verdict(false, 0.04), verdict(true, 0.01)]))
    expect(pictures.at(-1)).toMatchObject({ state: 'filtered', error: 0.04, samplesAPixel: 4 })
    expect(workers.map(w => w.orders.at(-1)?.kind)).toEqual(['goOn', 'goOn', 'goOn'])
    const before = workers.map(w => w.orders.length)
    say(0, judged(1, [verdict(true, 0.01)]))
    expect(pictures.at(-1)?.state).toBe('done')
    expect(workers.map(w => w.orders.length)).toEqual(before)
  })

  it('are not heard on a start before, or after they were stopped', () => {
    const group = begin()
    group.start('first', {})
    group.start('second', {})
    for (const from of [0, 1, 2]) say(from, { kind: 'part', run: 1, tiles: [row(from, 1)] })
    expect(pictures).toEqual([])
    for (const from of [0, 1, 2]) say(from, { kind: 'part', run: 2, tiles: [row(from, 1)] })
    expect(pictures.map(p => p.key)).toEqual(['second'])
    group.stop()
    say(0, judged(2, [verdict(true, 0)]))
    expect(pictures).toHaveLength(1)
    expect(workers.every(w => w.orders.at(-1)?.kind === 'stop')).toBe(true)
  })

  it('say what is their own to whoever listens, and end together', () => {
    const group = begin()
    say(1, { kind: 'ready' })
    expect(news).toEqual([{ kind: 'ready', from: 1 }])
    group.close()
    expect(workers.every(w => w.isGone)).toBe(true)
  })
})
