import { describe, expect, it } from 'vitest'
import { mergeSorted } from './merge-sorted'

describe('two sorted lists', () => {
  const byNumber = (a: number, b: number) => a - b

  it('become one, whichever ends first', () => {
    expect(mergeSorted([1, 4, 9], [2, 3, 12], byNumber)).toEqual([1, 2, 3, 4, 9, 12])
    expect(mergeSorted([], [1, 2], byNumber)).toEqual([1, 2])
    expect(mergeSorted([1, 2], [], byNumber)).toEqual([1, 2])
  })

  it('keep those of the first before their equals of the second', () => {
    const named = (n: number, from: string) => ({ n, from })
    const merged = mergeSorted([named(1, 'many'), named(2, 'many')], [named(1, 'few'), named(2, 'few')], (a, b) => a.n - b.n)
    expect(merged.map(m => m.from)).toEqual(['many', 'few', 'many', 'few'])
  })
})
