import { describe, expect, it } from 'vitest'
import { pointsOf, standardShare } from './audit-trend'

describe('the share of scenes that is on standard', () => {
  it('counts what is as pinned and what is another item of the library', () => {
    expect(standardShare({ pinned: 0.5, other: 0.204, foreign: 0.296 })).toBe(70)
    expect(standardShare({})).toBe(0)
  })

  it('runs from the earliest audit to the last; one that did not read is left out', () => {
    const audit = (createdAt: string, pinned: number | null) => ({
      title: 'room.glb',
      createdAt,
      shares: pinned === null ? null : { byArea: { pinned }, byCount: { pinned: 1 } },
    })
    const points = pointsOf([
      audit('2026-11-28T10:00:00.000Z', 1),
      audit('2026-11-27T10:00:00.000Z', null),
      audit('2026-11-20T10:00:00.000Z', 0.4),
    ])
    expect(points.map(p => [p.bySurface, p.byNumber])).toEqual([
      [40, 100],
      [100, 100],
    ])
  })
})
