import { describe, expect, it } from 'vitest'
import { growthOf } from './growth'

describe('growth by proportions', () => {
  it('is told from the outline, and from how low it is', () => {
    expect(growthOf(1.2, 8)).toBe('columnar')
    expect(growthOf(4, 8)).toBe('upright')
    expect(growthOf(1, 1)).toBe('rounded')
    expect(growthOf(9, 5)).toBe('spreading')
    expect(growthOf(0.8, 0.15)).toBe('ground cover')
    expect(growthOf(0.1, 0.2)).toBe('upright')
  })

  it('is not told without both extents', () => {
    expect(growthOf(undefined, 3)).toBeNull()
    expect(growthOf(2, 0)).toBeNull()
  })
})
