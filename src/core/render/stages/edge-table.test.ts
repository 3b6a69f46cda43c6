import { describe, expect, it } from 'vitest'
import { createRandom } from '../../math/random'
import { EdgeTable } from './edge-table'

describe('a table of edges', () => {
  it('holds what a map holds, whichever way round an edge is asked for, however many there are', () => {
    const random = createRandom(5)
    const table = new EdgeTable()
    const map = new Map<string, number>()
    for (let i = 0; i < 20_000; i++) {
      const [a, b] = [random.index(3000), random.index(60_000_000)]
      const value = random.index(1000) - 1
      table.set(a, b, value)
      map.set([a, b].sort((x, y) => x - y).join(), value)
    }
    for (const [key, value] of map) {
      const [a, b] = key.split(',').map(Number)
      expect([table.get(a, b), table.get(b, a)]).toEqual([value, value])
    }
    expect(table.get(3001, 3002)).toBeUndefined()
    const entries = [...table.entries()].map(({ a, b, value }) => [[a, b].join(), value])
    expect(new Map(entries as [string, number][])).toEqual(map)
  })
})
