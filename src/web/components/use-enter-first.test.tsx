import { act, renderHook } from '@testing-library/react'
import { describe, expect, it, vi } from 'vitest'
import { useEnterFirst } from './use-enter-first'

describe('Enter in a search field', () => {
  const begin = (found: string[] | null) => {
    const onTake = vi.fn()
    const hook = renderHook(({ found }: { found: string[] | null }) => useEnterFirst(found, onTake), { initialProps: { found } })
    return { onTake, ...hook }
  }

  it('takes the first that is found, once for each time', () => {
    const { onTake, result, rerender } = begin(['oak', 'ash'])
    act(() => result.current.enter())
    expect(onTake.mock.calls).toEqual([['oak']])
    rerender({ found: ['elm'] })
    expect(onTake).toHaveBeenCalledTimes(1)
    act(() => result.current.enter())
    expect(onTake.mock.calls).toEqual([['oak'], ['elm']])
  })

  it('waits for what is on its way, and takes nothing that was found for other words', () => {
    const { onTake, result, rerender } = begin(null)
    act(() => result.current.enter())
    expect(onTake).not.toHaveBeenCalled()
    rerender({ found: ['shrub'] })
    expect(onTake.mock.calls).toEqual([['shrub']])
  })

  it('takes nothing after more was typed, or where nothing was found', () => {
    const { onTake, result, rerender } = begin(null)
    act(() => result.current.enter())
    act(() => result.current.forget())
    rerender({ found: ['shrub'] })
    rerender({ found: [] })
    act(() => result.current.enter())
    rerender({ found: ['late'] })
    expect(onTake).not.toHaveBeenCalled()
  })
})
