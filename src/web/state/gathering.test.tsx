import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Gathering } from './gathering'

let visible = true
beforeEach(() => {
  visible = true
  vi.useFakeTimers()
  Object.defineProperty(document, 'visibilityState', { configurable: true, get: () => (visible ? 'visible' : 'hidden') })
})
afterEach(() => vi.useRealTimers())

describe('what comes together', () => {
  it('is taken once, each thing once', () => {
    const take = vi.fn()
    const gathering = new Gathering<unknown>(take)
    gathering.add(['Wall', { type: 'Item', id: 1 }])
    gathering.add([{ type: 'Item', id: 1 }, 'Wall', 'Rigs'])
    expect(take).not.toHaveBeenCalled()
    vi.advanceTimersByTime(1000)
    expect(take.mock.calls).toEqual([[['Wall', { type: 'Item', id: 1 }, 'Rigs']]])
    gathering.add([])
    vi.advanceTimersByTime(1000)
    expect(take).toHaveBeenCalledTimes(1)
    gathering.stop()
  })

  it('waits where nobody sees the page, and is there when somebody does', () => {
    const take = vi.fn()
    const gathering = new Gathering<string>(take)
    visible = false
    for (let i = 0; i < 50; i++) {
      gathering.add(['Wall'])
      vi.advanceTimersByTime(5000)
    }
    expect(take).not.toHaveBeenCalled()
    visible = true
    document.dispatchEvent(new Event('visibilitychange'))
    vi.advanceTimersByTime(1000)
    expect(take.mock.calls).toEqual([[['Wall']]])
    gathering.stop()
    gathering.add(['Rigs'])
    document.dispatchEvent(new Event('visibilitychange'))
    gathering.stop()
    vi.advanceTimersByTime(5000)
    expect(take).toHaveBeenCalledTimes(1)
  })
})
