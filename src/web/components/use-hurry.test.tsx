import { act, cleanup, render, screen } from '@testing-library/react'
import { useRef } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { useHeld, useHurry } from './use-hurry'

function List({ value }: { value: number }) {
  const scroller = useRef<HTMLDivElement>(null)
  const isHurried = useHurry(scroller)
  const held = useHeld(value, isHurried)
  return (
    <div ref={scroller} data-testid="list">
      {isHurried ? 'hurried' : 'calm'} {held}
    </div>
  )
}

describe('going down a long list', () => {
  beforeEach(() => {
    vi.useFakeTimers()
    Object.defineProperty(HTMLElement.prototype, 'clientHeight', { configurable: true, value: 800 })
  })
  afterEach(() => {
    cleanup()
    vi.useRealTimers()
    Reflect.deleteProperty(HTMLElement.prototype, 'clientHeight')
  })
  const scrollTo = (top: number) =>
    act(() => {
      const list = screen.getByTestId('list')
      list.scrollTop = top
      list.dispatchEvent(new Event('scroll'))
    })
  const shown = () => screen.getByTestId('list').textContent

  it('is a hurry from the second jump on, holds what was read, and ends when the jumps do', () => {
    const { rerender } = render(<List value={1} />)
    scrollTo(5000)
    expect(shown()).toBe('calm 1')
    scrollTo(9000)
    rerender(<List value={2} />)
    expect(shown()).toBe('hurried 1')
    act(() => void vi.advanceTimersByTime(60))
    scrollTo(20_000)
    act(() => void vi.advanceTimersByTime(100))
    expect(shown()).toBe('hurried 1')
    act(() => void vi.advanceTimersByTime(30))
    expect(shown()).toBe('calm 2')
  })

  it('is none by wheel, by pages with a look at each, or by one jump', () => {
    render(<List value={1} />)
    for (let top = 100; top < 6000; top += 300) scrollTo(top)
    expect(shown()).toBe('calm 1')
    scrollTo(50_000)
    act(() => void vi.advanceTimersByTime(200))
    scrollTo(90_000)
    expect(shown()).toBe('calm 1')
  })
})
