import { describe, expect, it } from 'vitest'
import { FrameCost } from './frame-cost'

describe('FrameCost', () => {
  it('draws everything in full while frames are quick', () => {
    const cost = new FrameCost(0)
    cost.took(12, 1)
    expect(cost.share(true)).toBe(1)
    expect(cost.share(false)).toBe(1)
  })

  it('draws coarser while something moves than when it rests, by what a frame takes', () => {
    const cost = new FrameCost(2000)
    expect(cost.share(true)).toBe(0.25)
    expect(cost.share(false)).toBe(0.5)
    // A quarter of the width in 25 ms is 400 ms for all of it.
    cost.took(25, 0.25)
    expect(cost.share(true)).toBe(0.5)
    expect(cost.share(false)).toBe(1)
  })

  it('is not led astray by one frame that compiled something, and follows when all take long', () => {
    const cost = new FrameCost(0)
    cost.took(10, 1)
    cost.took(300, 1)
    expect(cost.share(true)).toBe(1)
    for (let k = 0; k < 6; k++) cost.took(300, 1)
    expect(cost.share(true)).toBe(0.5)
    cost.took(20, 1)
    expect(cost.share(true)).toBe(1)
  })

  it('does not believe one that had to load, asks for another, and believes that', () => {
    const cost = new FrameCost(1500)
    expect(cost.share(false)).toBe(0.5)
    expect(cost.took(9000, 0.5)).toBe(false)
    expect(cost.share(false)).toBe(0.5)
    expect(cost.took(400, 0.5)).toBe(true)
    expect(cost.share(false)).toBe(0.5)
    // Twice as slow is slow.
    expect(cost.took(9000, 0.5)).toBe(false)
    expect(cost.took(9000, 0.5)).toBe(true)
    expect(cost.share(false)).toBe(0.25)
  })

  it('is never without a picture', () => {
    expect(new FrameCost(1e6).share(false)).toBe(0.25)
  })
})
