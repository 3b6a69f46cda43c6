import { describe, expect, it } from 'vitest'
import { createRandom, hash32, hashCombine } from './random'
import { sobolX, sobolY } from './sobol'
import { correlation, LogHistogram, mean, percentile } from './statistics'
import { add, cross, dot, length, lerp, normalize, scale, subtract } from './vec3'

describe('random numbers', () => {
  it('are the same for a seed, uniform, and within their bounds', () => {
    const a = createRandom(42)
    const b = createRandom(42)
    const values = Array.from({ length: 20_000 }, () => a.next())
    expect(values.slice(0, 50)).toEqual(Array.from({ length: 50 }, () => b.next()))
    expect(mean(values)).toBeCloseTo(0.5, 2)
    expect(values.every(v => v >= 0 && v < 1)).toBe(true)
    const tenths = Array.from({ length: 10 }, (_, k) => values.filter(v => Math.floor(v * 10) === k).length)
    for (const count of tenths) expect(Math.abs(count - 2000)).toBeLessThan(200)
    for (let i = 0; i < 500; i++) {
      expect(a.between(-3, 7)).toBeGreaterThanOrEqual(-3)
      expect([0, 1, 2, 3]).toContain(a.index(4))
    }
  })

  it('hashes spread: one bit of the input changes about half of the output', () => {
    let flipped = 0
    for (let i = 0; i < 1000; i++) {
      let x = hash32(i) ^ hash32(i ^ (1 << (i % 31)))
      for (; x !== 0; x &= x - 1) flipped++
    }
    expect(flipped / 1000).toBeGreaterThan(14)
    expect(flipped / 1000).toBeLessThan(18)
    expect(hashCombine(1, 2)).not.toBe(hashCombine(2, 1))
  })
})

describe('Sobol points', () => {
  it('put exactly one of 2^k points into each of 2^k equal intervals, on either axis', () => {
    for (const seed of [1, 99, 123456])
      for (const count of [8, 64, 256])
        for (const axis of [sobolX, sobolY]) {
          const cells = new Set(Array.from({ length: count }, (_, i) => Math.floor(axis(i, seed) * count)))
          expect(cells.size).toBe(count)
        }
  })

  it('put one of 64 points into each cell of an 8 x 8 grid', () => {
    for (const seed of [7, 2024]) {
      const cells = new Set(
        Array.from({ length: 64 }, (_, i) => Math.floor(sobolX(i, seed) * 8) * 8 + Math.floor(sobolY(i, seed) * 8)),
      )
      expect(cells.size).toBe(64)
    }
  })

  it('integrate a smooth function far better than chance', () => {
    const n = 256
    let sum = 0
    for (let i = 0; i < n; i++) sum += Math.sin(Math.PI * sobolX(i, 5)) * sobolY(i, 5) ** 2
    expect(Math.abs(sum / n - 2 / Math.PI / 3)).toBeLessThan(0.002)
  })
})

describe('statistics', () => {
  it('percentiles lie between ranks', () => {
    expect(percentile([4, 1, 3, 2], 0.5)).toBe(2.5)
    expect(percentile([5], 0.9)).toBe(5)
    expect(percentile([1, 2], 2)).toBe(2)
    expect(percentile([], 0.5)).toBeNaN()
  })

  it('correlation is 1, -1 or 0 where it must be', () => {
    const a = [1, 2, 3, 4]
    expect(
      correlation(
        a,
        a.map(v => 3 * v + 1),
      ),
    ).toBeCloseTo(1)
    expect(
      correlation(
        a,
        a.map(v => -v),
      ),
    ).toBeCloseTo(-1)
    expect(correlation(a, [7, 7, 7, 7])).toBe(0)
    expect(mean([])).toBeNaN()
  })

  it('the logarithmic histogram is good to a percent over many magnitudes', () => {
    const histogram = new LogHistogram()
    const values = Array.from({ length: 4000 }, (_, i) => 2 ** ((i / 4000) * 30 - 15))
    for (const v of values) histogram.add(v, 1)
    for (const share of [0.01, 0.5, 0.9, 0.999]) expect(histogram.percentile(share) / percentile(values, share)).toBeCloseTo(1, 1)
    const weighted = new LogHistogram()
    weighted.add(1, 99)
    weighted.add(1000, 1)
    expect(weighted.percentile(0.98)).toBeCloseTo(1, 1)
    expect(weighted.percentile(0.999) / 1000).toBeCloseTo(1, 1)
  })
})

describe('vectors', () => {
  it('do what their names say', () => {
    expect(add([1, 2, 3], [4, 5, 6])).toEqual([5, 7, 9])
    expect(subtract([4, 5, 6], [1, 2, 3])).toEqual([3, 3, 3])
    expect(scale([1, -2, 3], 2)).toEqual([2, -4, 6])
    expect(dot([1, 2, 3], [4, 5, 6])).toBe(32)
    expect(cross([1, 0, 0], [0, 1, 0])).toEqual([0, 0, 1])
    expect(lerp([0, 0, 0], [2, 4, 6], 0.5)).toEqual([1, 2, 3])
    expect(length(normalize([3, 4, 12]))).toBeCloseTo(1)
    expect(normalize([0, 0, 0])).toEqual([0, 1, 0])
  })
})
