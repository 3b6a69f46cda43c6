import { describe, expect, it } from 'vitest'
import { createTimeLeft } from './render-mock-up'

describe('how long the rest of a rendering takes', () => {
  const begin = (taken: number, expected: number) => {
    const rendering = { work: { taken, expected }, error: 0.05 as number | null }
    let ms = 0
    const left = createTimeLeft(rendering, () => ms)
    return (atMs: number, work: Partial<typeof rendering.work>, error: number | null = 0.05) => {
      ms = atMs
      rendering.work = { ...rendering.work, ...work }
      rendering.error = error
      return left()
    }
  }

  it('goes by what was taken since it began', () => {
    const leftAt = begin(0, 1000)
    expect(leftAt(10_000, { taken: 250 })).toBeCloseTo(30, 9)
    // More turns out to be needed.
    expect(leftAt(20_000, { taken: 500, expected: 3000 })).toBeCloseTo(100, 9)
    expect(leftAt(60_000, { taken: 3000 })).toBe(0)
  })

  it('does not count what it went on from as done in no time', () => {
    const leftAt = begin(800, 1000)
    expect(leftAt(10_000, { taken: 900 })).toBeCloseTo(10, 9)
  })

  it('is not told before it is known', () => {
    const leftAt = begin(0, 1000)
    expect(leftAt(1000, { taken: 5 })).toBeNull()
    expect(leftAt(2000, { taken: 500 }, null)).toBeNull()
    expect(leftAt(2000, {}, 0.05)).toBeCloseTo(2, 9)
  })
})
