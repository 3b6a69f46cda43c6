import { describe, expect, it } from 'vitest'
import { clampView, LARGEST_SCALE, panBy, toPicture, viewAfterKey, WHOLE, zoomAt } from './view-state'

describe('the view of a comparison', () => {
  it('keeps the point under the pointer where it is while it enlarges', () => {
    let view = WHOLE
    for (let k = 0; k < 5; k++) {
      const before = toPicture(view, 0.3, 0.7)
      view = zoomAt(view, 1.5, 0.3, 0.7)
      expect(toPicture(view, 0.3, 0.7).u).toBeCloseTo(before.u, 9)
      expect(toPicture(view, 0.3, 0.7).v).toBeCloseTo(before.v, 9)
    }
  })

  it('never leaves the picture, and knows a largest and a smallest scale', () => {
    expect(zoomAt(WHOLE, 0.1, 0.2, 0.2)).toEqual(WHOLE)
    expect(zoomAt(WHOLE, 1e6, 0.5, 0.5).scale).toBe(LARGEST_SCALE)
    const corner = panBy(zoomAt(WHOLE, 4, 0.5, 0.5), 10, 10)
    expect(toPicture(corner, 0, 0)).toEqual({ u: 0, v: 0 })
    expect(clampView({ x: -3, y: 9, scale: 2 })).toEqual({ x: 0.25, y: 0.75, scale: 2 })
  })

  it('is moved by keys as by the pointer', () => {
    const near = zoomAt(WHOLE, 4, 0.5, 0.5)
    expect(viewAfterKey('ArrowRight', near)!.x).toBeGreaterThan(near.x)
    expect(viewAfterKey('ArrowUp', near)!.y).toBeLessThan(near.y)
    expect(viewAfterKey('+', near)!.scale).toBeGreaterThan(4)
    expect(viewAfterKey('-', near)!.scale).toBeLessThan(4)
    expect(viewAfterKey('0', near)).toEqual(WHOLE)
    expect(viewAfterKey('q', near)).toBeNull()
  })

  it('goes back to the whole by the way it came', () => {
    const near = zoomAt(WHOLE, 3, 0.9, 0.1)
    expect(zoomAt(near, 1 / 3, 0.9, 0.1)).toMatchObject({ scale: 1, x: 0.5, y: 0.5 })
  })
})
