import { act, renderHook } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { EMPTY_SCENE, shotSchema } from '#core/mock-up/scene/scene'
import { PlainImageData, ToldWorker } from '../../../testing/stand-ins-of-browser'
import type { TracingNews } from '../../../workers/tracing-loop'
import { useTracedView } from './use-traced-view'

interface Order {
  kind: string
  run: number
  width: number
  guided: boolean
}

class TracingWorker extends ToldWorker<Order, TracingNews> {
  static readonly all: TracingWorker[] = []
  constructor() {
    super()
    TracingWorker.all.push(this)
  }
  get started(): Order[] {
    return this.orders.filter(o => o.kind === 'start')
  }
}

const shot = shotSchema.parse({ name: 'Top', place: 1, position: [0, 8, 0], target: [0, 0, 0], focalMm: 60, aspect: 1 })
const ITEMS = new Map()
const SIZE = { width: 4, height: 2 }

const say = (news: TracingNews): void => {
  for (const worker of TracingWorker.all) worker.onmessage?.({ data: news })
}
const judged = (run: number, isDone = false): TracingNews => {
  const verdict = { x0: 0, y0: 0, error: 0.03, done: isDone, goal: 8, filtered: null }
  return { run, ...SIZE, kind: 'judged', data: new Uint8Array(24), verdicts: [verdict], samples: 64 }
}
const rough = (run: number): TracingNews => ({ run, ...SIZE, kind: 'part', tiles: [] })

beforeEach(() => {
  TracingWorker.all.length = 0
  vi.useFakeTimers()
  vi.stubGlobal('Worker', TracingWorker)
  vi.stubGlobal('ImageData', PlainImageData)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

const trace = () => {
  const { result, unmount } = renderHook(() => useTracedView(EMPTY_SCENE, shot, ITEMS, 960, true))
  act(() => vi.advanceTimersByTime(1000))
  return { view: result, unmount, worker: () => TracingWorker.all[0] }
}

describe('a mock-up that rests', () => {
  it('is traced at half the width first, and at all of it when that is to be seen', () => {
    const { view, worker } = trace()
    expect(worker().started.map(o => o.width)).toEqual([480])
    const [{ run }] = worker().started
    act(() => say(rough(run)))
    expect(view.current).toMatchObject({ state: 'rough', isOfNow: true })
    expect(worker().started).toHaveLength(1)
    act(() => TracingWorker.all[0].onmessage!({ data: judged(run) }))
    expect(view.current).toMatchObject({ state: 'filtered', isOfNow: true })
    expect(worker().started.map(o => o.width)).toEqual([480, 960])
    expect(worker().started.map(o => o.guided)).toEqual([false, true])
  })

  it('keeps what is filtered while the larger one is rough, and is done with the larger one alone', () => {
    const { view, worker } = trace()
    act(() => TracingWorker.all[0].onmessage!({ data: judged(worker().started[0].run, true) }))
    expect(view.current.state).toBe('filtered')
    const { run } = worker().started[1]
    act(() => say(rough(run)))
    expect(view.current.state).toBe('filtered')
    act(() => TracingWorker.all[0].onmessage!({ data: judged(run, true) }))
    expect(view.current.state).toBe('done')
    expect(worker().started).toHaveLength(2)
  })

  it('hears no more of a look that is over', () => {
    const { view, worker } = trace()
    act(() => say({ ...judged(worker().started[0].run - 1) }))
    expect(view.current.isOfNow).toBe(false)
    expect(worker().started).toHaveLength(1)
  })
})
