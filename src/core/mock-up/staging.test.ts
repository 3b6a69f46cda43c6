import { describe, expect, it } from 'vitest'
import { rotate } from '../math/quaternion'
import { lightForShadow, sunPosition } from './light/sun-position'
import { type Box, snapMove } from './placing/snapping'
import { listStanding } from './placing/standing'
import { growOne, type Species } from './planting/growth-of-one'
import { isInside, type Scattered, scatter } from './planting/scatter'

const box = (x: number, z: number, width = 1, depth = 1): Box => ({ min: [x, 0, z], max: [x + width, 1, z + depth] })

describe('snapping', () => {
  const settings = { gridM: null, pxPerM: 100 }

  it('brings a side to a side within eight pixels, and not from farther', () => {
    const { by, held } = snapMove(box(2.05, 0.3), [box(1, 0)], settings)
    expect(by[0]).toBeCloseTo(-0.05, 9)
    expect(held).toEqual([{ axis: 0, kind: 'side', atM: 2, others: [0] }])
    expect(snapMove(box(2.09, 0.3), [box(1, 0)], settings).by[0]).toBe(0)
    // Closer to the eye a metre is more pixels, and the reach less far.
    expect(snapMove(box(2.05, 0.3), [box(1, 0)], { ...settings, pxPerM: 300 }).held).toEqual([])
  })

  it('holds both axes, each at its own', () => {
    const { by, held } = snapMove(box(5.02, 2.97), [box(3, 0, 2), box(8, 2, 1, 1)], settings)
    expect(by[0]).toBeCloseTo(-0.02, 9)
    expect(by[2]).toBeCloseTo(0.03, 9)
    expect(held.map(h => h.axis)).toEqual([0, 2])
  })

  it('finds middles, equal gaps and the grid, and rather meets a side than any of them', () => {
    expect(snapMove(box(0.53, 4, 1), [box(0, 0, 2)], settings).held).toEqual([{ axis: 0, kind: 'middle', atM: 1, others: [0] }])
    const row = [box(0, 0), box(2.5, 0)]
    const { by, held } = snapMove(box(5.03, 0.2), row, settings)
    expect(held).toContainEqual({ axis: 0, kind: 'gap', atM: 5, others: [0, 1] })
    expect(by[0]).toBeCloseTo(-0.03, 9)
    expect(snapMove(box(0.27, 0.52), [], { ...settings, gridM: 0.25 }).by[0]).toBeCloseTo(-0.02, 9)
    expect(snapMove(box(1.02, 0.4), [box(0, 0)], { ...settings, gridM: 0.5 }).held[0].kind).toBe('side')
  })
})

describe('the sun', () => {
  // Reda & Andreas (2004), NREL/TP-560-34302, appendix A.5: Golden, Colorado, 17 October 2003, 12:30:30 at UTC-7.
  it('stands where the published example has it', () => {
    const { azimuthDeg, elevationDeg } = sunPosition(new Date('2003-10-17T19:30:30Z'), 39.742476, -105.1786)
    expect(Math.abs(azimuthDeg - 194.34024)).toBeLessThan(0.02)
    expect(Math.abs(90 - elevationDeg - 50.11162)).toBeLessThan(0.02)
  })

  it('is in the south at noon in the north and the other way round, over the head at the tropic, and under the ground at night', () => {
    expect(sunPosition(new Date('2024-06-20T12:02:00Z'), 51.48, 0).azimuthDeg).toBeCloseTo(180, 0)
    const south = sunPosition(new Date('2024-12-21T01:53:30Z'), -33.9, 151.2).azimuthDeg
    expect(Math.min(south, 360 - south)).toBeLessThan(6)
    expect(sunPosition(new Date('2024-06-20T12:02:00Z'), 23.44, 0).elevationDeg).toBeGreaterThan(89.3)
    expect(sunPosition(new Date('2024-06-20T00:00:00Z'), 51.48, 0).elevationDeg).toBeLessThan(-10)
    expect(() => sunPosition(new Date('x'), 0, 0)).toThrow(RangeError)
    expect(() => sunPosition(new Date(), 99, 0)).toThrow(RangeError)
  })

  it('rises a little early and sets a little late: the air lifts it by half a degree at the horizon', () => {
    // Greenwich at the equinox: the upper limb is seen at about 06:03 UTC, its centre not yet risen by geometry.
    const early = sunPosition(new Date('2024-03-20T06:07:00Z'), 51.48, 0)
    expect(early.elevationDeg).toBeGreaterThan(0)
    expect(early.azimuthDeg).toBeCloseTo(90, -0.5)
  })

  it('falls where its shadow is wanted', () => {
    const light = lightForShadow([0, 2, 0], [0, 0, 2])!
    // The shadow lies to the south of the point: the light is in the north.
    expect(light.azimuthDeg).toBeCloseTo(0, 9)
    expect(light.elevationDeg).toBeCloseTo(45, 9)
    expect(lightForShadow([0, 2, 0], [-3, 0, 0], 90)!.azimuthDeg).toBeCloseTo(0, 9)
    expect(lightForShadow([0, 2, 0], [0, 3, 0])).toBeNull()
  })
})

describe('planting', () => {
  const outline = [
    [0, 0],
    [20, 0],
    [20, 12],
    [8, 12],
    [8, 6],
    [0, 6],
  ] as const
  const area = { outline, keepOut: [{ x: 12, z: 6, radiusM: 2 }] }
  const settings = { count: 150, leastM: 0.5, seed: 7 }
  const leastDistance = (points: readonly Scattered[]) =>
    Math.min(...points.flatMap((p, i) => points.slice(i + 1).map(q => Math.hypot(p.x - q.x, p.z - q.z))))

  it('stands in its area, out of what is kept free, no two too near, and as many as were wanted', () => {
    const points = scatter(area, settings)
    expect(points).toHaveLength(150)
    expect(points.every(p => isInside(outline, p.x, p.z) && Math.hypot(p.x - 12, p.z - 6) >= 2)).toBe(true)
    expect(leastDistance(points)).toBeGreaterThanOrEqual(0.5)
  })

  it('is spread far more evenly than by chance', () => {
    const points = scatter({ outline, keepOut: [] }, { ...settings, leastM: 0 })
    // 192 m2 for 150: the densest packing has 1.22 m between any two; of points by chance the nearest two are some centimetres apart.
    expect(leastDistance(points)).toBeGreaterThan(0.6 * 1.22)
  })

  it('is the same for the same seed, and another for another', () => {
    expect(scatter(area, settings)).toEqual(scatter(area, settings))
    expect(scatter(area, { ...settings, seed: 8 })).not.toEqual(scatter(area, settings))
  })

  it('is fewer where there is no room for more, and thins out towards its edge and with its density', () => {
    const dense = scatter(area, { ...settings, leastM: 2.5 })
    expect(dense.length).toBeLessThan(60)
    expect(leastDistance(dense)).toBeGreaterThanOrEqual(2.5)
    const edged = scatter({ outline, keepOut: [] }, { ...settings, leastM: 0, edgeM: 2 })
    const atEdge = (points: readonly Scattered[]) => points.filter(p => p.x > 19 || p.z < 1).length
    expect(atEdge(edged)).toBeLessThan(atEdge(scatter({ outline, keepOut: [] }, { ...settings, leastM: 0 })) / 1.8)
    const right = scatter({ outline, keepOut: [] }, { ...settings, leastM: 0, density: x => (x > 10 ? 1 : 0) })
    expect(right.every(p => p.x > 10)).toBe(true)
    expect(() => scatter({ outline: outline.slice(0, 2), keepOut: [] }, settings)).toThrow(RangeError)
  })

  const birch: Species = { share: 3, usualSize: 1, smallest: 0.7, largest: 1.4, sizeSpread: 0.2, leanDeg: 3 }
  const grass: Species = { share: 1, usualSize: 0.5, smallest: 0.3, largest: 0.8, sizeSpread: 0.1, leanDeg: 0 }

  it('has its species by their shares, and each plant its own turn, lean and size within what is natural', () => {
    const grown = Array.from({ length: 4000 }, (_, index) => growOne(3, index, [birch, grass]))
    const birches = grown.filter(g => g.species === 0)
    expect(birches.length / grown.length).toBeCloseTo(0.75, 1)
    expect(birches.every(g => g.scale >= 0.7 && g.scale <= 1.4)).toBe(true)
    const logs = birches.map(g => Math.log(g.scale))
    const mean = logs.reduce((a, b) => a + b, 0) / logs.length
    expect(mean).toBeCloseTo(0, 1)
    const leans = birches.map(g => (Math.acos(Math.min(1, rotate(g.turn, [0, 1, 0])[1])) * 180) / Math.PI)
    // The mean of a Rayleigh distribution is sqrt(pi / 2) of its parameter.
    expect(leans.reduce((a, b) => a + b, 0) / leans.length).toBeCloseTo(3 * Math.sqrt(Math.PI / 2), 0)
    expect(grown.filter(g => g.species === 1).every(g => rotate(g.turn, [0, 1, 0])[1] > 0.999999)).toBe(true)
    expect(growOne(3, 17, [birch, grass])).toEqual(grown[17])
    expect(() => growOne(1, 1, [{ ...birch, share: 0 }])).toThrow(RangeError)
  })
})

describe('what stands', () => {
  const box = (x: number, y: number, size = 0.2) => ({
    min: [x, y, 0] as [number, number, number],
    max: [x + size, y + 0.5, size] as [number, number, number],
  })
  const upright = { turn: [0, 0.6, 0, 0.8] as [number, number, number, number] }

  it('stands on a level or wholly on another, upright; what hangs, leans or reaches over an edge does not', () => {
    const boxes = new Map([
      ['table', box(0, 0, 1)],
      ['vase', box(0.3, 0.5)],
      ['over the edge', box(0.9, 0.5)],
      ['lamp', box(3, 2)],
      ['leaning', box(5, 0)],
      ['on the ground', box(7, -0.06)],
    ])
    const pieces = Object.fromEntries([...boxes.keys()].map(id => [id, upright]))
    pieces.leaning = { turn: [0.3, 0, 0, 0.954] }
    expect([...listStanding(pieces, boxes, [0, -0.06])].sort()).toEqual(['on the ground', 'table', 'vase'])
    expect([...listStanding(pieces, boxes, [])]).toEqual(['vase'])
  })
})
