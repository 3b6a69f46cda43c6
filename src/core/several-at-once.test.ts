import { describe, expect, it } from 'vitest'
import { severalAtOnce } from './several-at-once'

const soon = (ms: number) => new Promise(resolve => setTimeout(resolve, ms))

describe('several at once', () => {
  it('are begun in order, never more than wanted, and all of them done', async () => {
    let [running, most] = [0, 0]
    const begun: number[] = []
    const done = new Set<number>()
    await severalAtOnce([5, 1, 4, 2, 3, 0], 3, async n => {
      begun.push(n)
      most = Math.max(most, ++running)
      await soon(n * 3)
      running--
      done.add(n)
    })
    expect(begun).toEqual([5, 1, 4, 2, 3, 0])
    expect([most, running, done.size]).toEqual([3, 0, 6])
    await severalAtOnce([], 3, () => Promise.reject(new Error('of nothing')))
  })

  it('end with the first that fails, after those begun with it', async () => {
    const ended: number[] = []
    const work = severalAtOnce([1, 2, 3, 4], 2, async n => {
      await soon(n === 1 ? 20 : 1)
      if (n === 2) throw new Error('two')
      ended.push(n)
    })
    await expect(work).rejects.toThrow('two')
    // What was under way is done, what waited is not begun.
    expect(ended).toEqual([1])
  })
})
