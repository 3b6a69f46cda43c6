import { describe, expect, it } from 'vitest'
import { deltaE00 } from '../color/difference'
import { createRandom } from '../math/random'
import type { Vec3 } from '../math/vec3'
import { findAlike, placeColor } from './alike'

describe('colours too alike', () => {
  it('are found, nearest first, as comparing every pair would find them', () => {
    const random = createRandom(8)
    const colors: (Vec3 | null)[] = Array.from({ length: 120 }, (_, k) =>
      k % 17 === 0 ? null : [random.next() ** 2, random.next() ** 2, random.next() ** 2],
    )
    for (const c of colors.slice(0, 30)) if (c) colors.push(c.map(v => v * random.between(0.9, 1.1)) as Vec3)
    for (const limit of [1, 3, 8]) {
      const found = findAlike(colors, limit)
      let pairs = 0
      colors.forEach((a, i) => {
        const expected = colors
          .map((b, j) => ({ j, d: a && b && i !== j ? deltaE00(a, b) : Number.POSITIVE_INFINITY }))
          .filter(x => x.d <= limit)
          .sort((x, y) => x.d - y.d)
        expect(found[i].map(f => f.index).sort()).toEqual(expected.map(x => x.j).sort())
        expect(found[i].map(f => f.deltaE)).toEqual([...found[i].map(f => f.deltaE)].sort((x, y) => x - y))
        pairs += expected.length
      })
      expect(pairs).toBeGreaterThan(0)
    }
  })

  it('a grey has no hue; red, green and blue stand apart on the circle', () => {
    expect(placeColor([0.2, 0.2, 0.2]).hueDeg).toBeNull()
    const hues = (
      [
        [0.5, 0.02, 0.02],
        [0.02, 0.5, 0.02],
        [0.02, 0.02, 0.5],
      ] as Vec3[]
    ).map(c => placeColor(c).hueDeg!)
    expect(new Set(hues.map(h => Math.floor(h / 60))).size).toBe(3)
    expect(placeColor([0.8, 0.8, 0.8]).lightness).toBeGreaterThan(placeColor([0.1, 0.1, 0.1]).lightness)
  })
})
