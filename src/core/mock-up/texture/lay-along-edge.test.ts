import { describe, expect, it } from 'vitest'
import type { Mesh } from '../../geometry/mesh'
import { createBox, createSphere } from '../../geometry/shapes'
import { toRadians } from '../../math/angles'
import { layAlongEdge } from './lay-along-edge'
import { layTexture } from './lay-texture'

/** A floor of 6 by 4 m whose long side stands so many degrees off the axes. */
function floor(degrees: number): Mesh {
  const [c, s] = [Math.cos(toRadians(degrees)), Math.sin(toRadians(degrees))]
  const corners = [
    [2, 3],
    [8, 3],
    [8, 7],
    [2, 7],
  ].map(([x, z]) => [c * x - s * z, 0, s * x + c * z])
  return {
    positions: new Float32Array(corners.flat()),
    normals: new Float32Array([0, 1, 2, 3].flatMap(() => [0, 1, 0])),
    uvs: new Float32Array(8),
    indices: new Uint32Array([0, 2, 1, 0, 3, 2]),
  }
}
const extent = ({ uvs }: Mesh) => {
  const [us, vs] = [0, 1].map(k => uvs.filter((_, i) => i % 2 === k))
  return [Math.min(...us), Math.max(...us), Math.min(...vs), Math.max(...vs)]
}

describe('a texture along an edge', () => {
  it.each([0, 17, 45, 118])('runs with the long side of a floor that stands %d° off the axes, from its corner', degrees => {
    const part = floor(degrees)
    // However it lay before.
    for (const before of [
      { turnDeg: 0, offsetM: [0, 0] as [number, number] },
      { turnDeg: 33, offsetM: [0.4, -1.2] as [number, number] },
    ]) {
      const found = layAlongEdge(layTexture(part, false, { mapping: 'box', ...before }), before)!
      const [u0, u1, v0, v1] = extent(layTexture(part, false, { mapping: 'box', ...found }))
      for (const [value, wanted] of [
        [u0, 0],
        [u1, 6],
        [v0, 0],
        [v1, 4],
      ])
        expect(value).toBeCloseTo(wanted, 3)
      expect(Math.abs(found.turnDeg)).toBeLessThanOrEqual(90)
      const across = layAlongEdge(layTexture(part, false, { mapping: 'box', ...before }), before, true)!
      const turned = extent(layTexture(part, false, { mapping: 'box', ...across }))
      expect(turned[1]).toBeCloseTo(4, 3)
      expect(turned[3]).toBeCloseTo(6, 3)
    }
  })

  it('runs with the length of a board, and runs on over parts that share their axes', () => {
    const lay = { mapping: 'box' as const, turnDeg: 0, offsetM: [0, 0] as [number, number] }
    const board = createBox(0.2, 0.03, 2.4)
    const found = layAlongEdge(layTexture(board, true, lay), lay)!
    expect(Math.abs(found.turnDeg)).toBeCloseTo(90, 4)
    // The next board beside it has the same texture at the edge that both have.
    const next = { ...board, positions: board.positions.map((v, i) => (i % 3 === 0 ? v + 0.2 : v)) }
    const [one, two] = [board, next].map(mesh => layTexture(mesh, true, { ...lay, ...found }))
    const at = (mesh: Mesh, x: number, y: number, z: number) => {
      for (let v = 0; v < mesh.positions.length / 3; v++) {
        const [px, py, pz] = mesh.positions.subarray(v * 3, v * 3 + 3)
        if (Math.hypot(px - x, py - y, pz - z) < 1e-5 && mesh.normals[v * 3 + 1] > 0.5)
          return [...mesh.uvs.subarray(v * 2, v * 2 + 2)]
      }
      return null
    }
    const shared = at(one, 0.1, 0.03, 1.2)!
    expect(at(two, 0.1, 0.03, 1.2)).toEqual(shared.map(v => expect.closeTo(v, 5)))
  })

  it('is none where nothing has a length', () => {
    const point: Mesh = { ...floor(0), positions: new Float32Array(12) }
    expect(layAlongEdge(point, { turnDeg: 0, offsetM: [0, 0] })).toBeNull()
    expect(layAlongEdge({ ...point, indices: new Uint32Array() }, { turnDeg: 0, offsetM: [0, 0] })).toBeNull()
    // Of a ball any direction will do, but it is one.
    const ball = layTexture(createSphere(0.5), true, { mapping: 'box', turnDeg: 0, offsetM: [0, 0] })
    expect(Number.isFinite(layAlongEdge(ball, { turnDeg: 0, offsetM: [0, 0] })!.turnDeg)).toBe(true)
  })
})
