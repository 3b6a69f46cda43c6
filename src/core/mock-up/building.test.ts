import { describe, expect, it } from 'vitest'
import { computeBounds, type Mesh } from '../geometry/mesh'
import { createBox } from '../geometry/shapes'
import { IDENTITY } from '../math/affine'
import type { Vec3 } from '../math/vec3'
import {
  frameBox,
  goAside,
  goCloser,
  goRound,
  holdAt,
  type Lens,
  lensInWindow,
  rayThrough,
  seeThrough,
  walk,
} from './composing/look-through'
import { buildStage } from './composing/stage-parts'
import { daylightShare } from './light/daylight-share'
import { castInto, castOntoLevel, enterBox } from './placing/cast-into'
import { findMisplaced } from './placing/placing'
import { createGround } from './planting/ground'
import { areaOf, growPlanting, lengthOf } from './planting/grow-planting'
import type { Planting, Stage } from './scene/scene'
import { layTexture } from './texture/lay-texture'

const room = (openings: Extract<Stage, { kind: 'room' }>['openings'] = []): Extract<Stage, { kind: 'room' }> => ({
  kind: 'room',
  materials: {},
  widthM: 5,
  depthM: 4,
  heightM: 3,
  openings,
})

function areaM2({ positions: p, indices }: Mesh): number {
  let area = 0
  for (let i = 0; i < indices.length; i += 3) {
    const [a, b, c] = [0, 1, 2].map(k => indices[i + k] * 3)
    const [x1, y1, z1] = [0, 1, 2].map(k => p[b + k] - p[a + k])
    const [x2, y2, z2] = [0, 1, 2].map(k => p[c + k] - p[a + k])
    area += Math.hypot(y1 * z2 - z1 * y2, z1 * x2 - x1 * z2, x1 * y2 - y1 * x2) / 2
  }
  return area
}
const partOf = (stage: Stage, name: string): Mesh => buildStage(stage).find(p => p.name === name)!.mesh

describe('a terrace', () => {
  it('has its surface at height 0, where things stand, and lies on the ground', () => {
    const [paving, ground] = buildStage({ kind: 'terrace', materials: {}, widthM: 3, depthM: 2 }).map(p =>
      computeBounds(p.mesh.positions),
    )
    expect(paving.max[1]).toBeCloseTo(0, 6)
    expect(paving.min[1]).toBeCloseTo(ground.max[1], 6)
  })
})

describe('a room', () => {
  it('has a floor, a ceiling and four walls that look inwards, of the areas that its measures say', () => {
    const stage = room()
    expect(buildStage(stage).map(p => p.name)).toEqual([
      'floor',
      'ceiling',
      'wall north',
      'wall east',
      'wall south',
      'wall west',
      'ground',
    ])
    expect(areaM2(partOf(stage, 'floor'))).toBeCloseTo(20, 6)
    expect(areaM2(partOf(stage, 'wall north'))).toBeCloseTo(15, 6)
    expect(areaM2(partOf(stage, 'wall east'))).toBeCloseTo(12, 6)
    for (const { name, mesh } of buildStage(stage)) {
      if (name === 'ground') continue
      const { min, max } = computeBounds(mesh.positions)
      const middle = min.map((v, k) => (v + max[k]) / 2)
      const inwards = [0 - middle[0], 1.5 - middle[1], 0 - middle[2]]
      expect(inwards.reduce((sum, v, k) => sum + v * mesh.normals[k], 0)).toBeGreaterThan(0)
    }
  })

  it('leaves out what its openings leave out, also where two of them meet or reach past the wall', () => {
    const window = { wall: 'north' as const, leftM: 1, sillM: 1, widthM: 2, heightM: 1 }
    expect(areaM2(partOf(room([window]), 'wall north'))).toBeCloseTo(13, 6)
    const beside = { ...window, leftM: 2, widthM: 9, heightM: 9 }
    // From 1 to 2 one high, from 2 to the wall's end everything above the sill.
    expect(areaM2(partOf(room([window, beside]), 'wall north'))).toBeCloseTo(15 - 1 - 6, 6)
    const whole = { wall: 'south' as const, leftM: 0, sillM: 0, widthM: 5, heightM: 3 }
    expect(buildStage(room([whole])).some(p => p.name === 'wall south')).toBe(false)
  })

  it('carries a texture through a wall that is cut by windows', () => {
    const { positions: p, uvs } = partOf(room([{ wall: 'north', leftM: 1, sillM: 1, widthM: 2, heightM: 1 }]), 'wall north')
    for (let v = 0; v < p.length / 3; v++) {
      expect(uvs[v * 2]).toBeCloseTo(p[v * 3] + 2.5, 5)
      expect(uvs[v * 2 + 1]).toBeCloseTo(3 - p[v * 3 + 1], 5)
    }
  })

  it('lets in more daylight the more of it is open, and never more than there is', () => {
    const open = (widthM: number) => daylightShare(room([{ wall: 'south', leftM: 0, sillM: 0, widthM, heightM: 3 }]))
    expect(daylightShare(room())).toBe(0)
    expect(open(1)).toBeGreaterThan(0)
    expect(open(4)).toBeGreaterThan(open(1))
    expect(open(50)).toBeLessThan(1)
    expect(daylightShare({ kind: 'empty', materials: {} })).toBe(1)
  })
})

describe('a texture on a part', () => {
  const lay = { mapping: 'own' as const, turnDeg: 0, offsetM: [0, 0] as const }
  /** Metres of the texture over metres of the surface, over all of it. */
  const scaleOn = (mesh: Mesh) => {
    const flat: Mesh = { ...mesh, positions: new Float32Array(mesh.positions.length) }
    for (let v = 0; v < mesh.uvs.length / 2; v++) flat.positions.set([mesh.uvs[v * 2], mesh.uvs[v * 2 + 1], 0], v * 3)
    return Math.sqrt(areaM2(flat) / areaM2(mesh))
  }

  it('is as large as in life, whatever unit the coordinates came in, and on a larger piece there is more of it', () => {
    const box = createBox(1.2, 0.4, 0.7)
    const odd = { ...box, uvs: box.uvs.map(v => v * 37) }
    expect(scaleOn(layTexture(odd, true, lay))).toBeCloseTo(1, 5)
    expect(scaleOn(layTexture(odd, true, lay, 2))).toBeCloseTo(2, 5)
    expect(scaleOn(layTexture(odd, true, { ...lay, turnDeg: 30, offsetM: [1, 2] }))).toBeCloseTo(1, 5)
  })

  it('is laid along the axes where a part has no coordinates, or none with any extent', () => {
    const box = createBox(1.2, 0.4, 0.7)
    const none = { ...box, uvs: new Float32Array(box.uvs.length) }
    for (const laid of [
      layTexture(none, true, lay),
      layTexture(box, false, lay),
      layTexture(box, true, { ...lay, mapping: 'box' }),
    ]) {
      expect(scaleOn(laid)).toBeCloseTo(1, 5)
      expect(areaM2(laid)).toBeCloseTo(areaM2(box), 6)
    }
  })

  it('is drawn over the whole part where it stands once', () => {
    const { uvs } = layTexture(createBox(1.2, 0.4, 0.7), true, { ...lay, onceM: [0.6, 0.9] })
    const us = [...uvs].filter((_, i) => i % 2 === 0)
    const vs = [...uvs].filter((_, i) => i % 2 === 1)
    expect([Math.min(...us), Math.max(...us)]).toEqual([0, expect.closeTo(0.6, 6)])
    expect([Math.min(...vs), Math.max(...vs)]).toEqual([0, expect.closeTo(0.9, 6)])
  })

  it('turns counter-clockwise as one looks at the surface', () => {
    const quad = partOf(room(), 'wall north')
    const turned = layTexture(quad, true, { ...lay, turnDeg: 90 })
    // What ran to the right on the wall now runs up.
    const du = turned.uvs[2] - turned.uvs[0]
    const dv = turned.uvs[3] - turned.uvs[1]
    expect(du).toBeCloseTo(0, 5)
    expect(Math.abs(dv)).toBeCloseTo(5, 5)
  })
})

describe('looking through a lens', () => {
  const lens: Lens = { position: [3, 1.6, 4], target: [0, 0.4, -1], focalMm: 28, aspect: 1.6, isUpright: false }
  const points: Vec3[] = [
    [0, 0, 0],
    [-1, 2, -2],
    [1.5, 0.3, 1],
  ]

  it('sees a point where the ray through that place comes from, upright or not', () => {
    for (const isUpright of [false, true])
      for (const point of points) {
        const { x, y } = seeThrough({ ...lens, isUpright }, point)!
        const { origin, direction } = rayThrough({ ...lens, isUpright }, x, y)
        const t = (point[2] - origin[2]) / direction[2]
        for (let k = 0; k < 3; k++) expect(origin[k] + direction[k] * t).toBeCloseTo(point[k], 6)
      }
  })

  it('keeps verticals upright by shifting the film, with the target where it was', () => {
    const upright = { ...lens, isUpright: true }
    for (const [x, , z] of points) {
      const [low, high] = [seeThrough(upright, [x, 0, z])!, seeThrough(upright, [x, 2, z])!]
      expect(high.x).toBeCloseTo(low.x, 9)
    }
    expect(seeThrough(upright, lens.target)).toMatchObject({ x: expect.closeTo(0, 9), y: expect.closeTo(0, 9) })
    const [low, high] = [seeThrough(lens, [-1, 0, -2])!, seeThrough(lens, [-1, 2, -2])!]
    expect(Math.abs(high.x - low.x)).toBeGreaterThan(0.002)
  })

  it('shows in any window all that the shot frames', () => {
    for (const aspect of [0.7, 1.2, 1.6, 2.4]) {
      const window = lensInWindow(lens, aspect)
      for (const [x, y] of [
        [-1, -1],
        [1, 1],
        [1, -1],
      ]) {
        const { origin, direction } = rayThrough(lens, x, y)
        const seen = seeThrough(window, [origin[0] + direction[0], origin[1] + direction[1], origin[2] + direction[2]])!
        expect(Math.max(Math.abs(seen.x), Math.abs(seen.y))).toBeLessThanOrEqual(1 + 1e-9)
      }
    }
  })

  it('holds a point at the corner that is seen nearest, and at none that is seen too far away', () => {
    const [x, y] = [0.2, 0.1]
    const { origin, direction } = rayThrough(lens, x, y)
    const through = (t: number, right = 0): Vec3 => {
      const aside = rayThrough(lens, x + right, y).direction
      return [origin[0] + aside[0] * t, origin[1] + aside[1] * t, origin[2] + aside[2] * t]
    }
    const point = through(3)
    const heightPx = 800
    const pxOfWidth = 2 / (heightPx * lens.aspect)
    const [six, four, far] = [through(3.2, 6 * pxOfWidth), through(2.5, -4 * pxOfWidth), through(3, 40 * pxOfWidth)]
    expect(holdAt(lens, point, [six, four, far], heightPx)).toBe(four)
    expect(holdAt(lens, point, [six, far], heightPx)).toBe(six)
    expect(holdAt(lens, point, [far], heightPx)).toBe(point)
    expect(holdAt(lens, point, [six], heightPx, 5)).toBe(point)
    // What lies behind the eye is no corner.
    expect(holdAt(lens, point, [[origin[0] - direction[0], origin[1] - direction[1], origin[2] - direction[2]]], heightPx)).toBe(
      point,
    )
  })

  it('goes round, nearer, aside and through the room', () => {
    const reach = (l: Lens) => Math.hypot(...l.position.map((v, k) => v - l.target[k]))
    expect(reach(goRound(lens, 0.4, 0.2))).toBeCloseTo(reach(lens), 9)
    expect(goRound(lens, 0, 9).position[1]).toBeGreaterThan(lens.position[1])
    expect(reach(goCloser(lens, 0.5))).toBeCloseTo(reach(lens) / 2, 9)
    const aside = goAside(lens, 0.5, 0)
    expect(seeThrough(aside, lens.target)!.x).toBeCloseTo(-1 / lens.aspect, 6)
    const walked = walk(lens, 2, 0)
    expect(walked.position[1]).toBe(lens.position[1])
    expect(Math.hypot(walked.position[0] - lens.position[0], walked.position[2] - lens.position[2])).toBeCloseTo(2, 9)
    const box = { min: [-0.5, 0, -0.5] as Vec3, max: [0.5, 1, 0.5] as Vec3 }
    const framed = frameBox(lens, box)
    for (const corner of [box.min, box.max]) {
      const seen = seeThrough(framed, corner)!
      expect(Math.max(Math.abs(seen.x), Math.abs(seen.y))).toBeLessThan(1)
    }
  })
})

describe('a ray into a scene', () => {
  const box = createBox(1, 1, 1)
  const at = (x: number, of: string, isTwoSided = true) => ({
    of,
    box: { min: [-0.5, -0.5, -0.5] as Vec3, max: [0.5, 0.5, 0.5] as Vec3 },
    parts: [{ name: 'body', mesh: box }],
    toWorld: [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0],
    isTwoSided,
  })
  const ray = { origin: [-5, 0.1, 0.1] as Vec3, direction: [1, 0, 0] as Vec3 }

  it('meets the nearest thing, at its part, with the face that looks at it', () => {
    const hit = castInto(ray, [at(6, 'far'), at(2, 'near')])!
    expect(hit).toMatchObject({ of: 'near', part: 'body' })
    expect(hit.point[0]).toBeCloseTo(1.5, 6)
    expect(hit.normal[0]).toBeCloseTo(-1, 6)
    // Of a cube of one metre that stands on the level, the face that looks at it.
    for (const [x, y, z] of hit.corners) {
      expect([x, Math.abs(z)]).toEqual([expect.closeTo(1.5, 6), expect.closeTo(0.5, 6)])
      expect(y * (1 - y)).toBeCloseTo(0, 6)
    }
    expect(castInto({ ...ray, direction: [0, 1, 0] }, [at(2, 'near')])).toBeNull()
  })

  it('passes the back of what is one-sided', () => {
    const inside = { origin: [2, 0.1, 0.1] as Vec3, direction: [1, 0, 0] as Vec3 }
    expect(castInto(inside, [at(2, 'wall', false)])).toBeNull()
    expect(castInto(inside, [at(2, 'wall')])?.point[0]).toBeCloseTo(2.5, 6)
  })

  it('comes into boxes and down on levels', () => {
    expect(enterBox(ray, { min: [0, 0, 0], max: [1, 1, 1] })).toBeCloseTo(5, 4)
    expect(enterBox(ray, { min: [0, 1, 0], max: [1, 2, 1] })).toBeNull()
    expect(castOntoLevel({ origin: [0, 2, 0], direction: [1, -1, 0] }, 0)).toEqual([2, 0, 0])
    expect(castOntoLevel({ origin: [0, 2, 0], direction: [1, 1, 0] }, 0)).toBeNull()
    expect(IDENTITY).toHaveLength(12)
  })
})

describe('a planting', () => {
  const item = { code: 'SHR-0001', version: 1, inputKey: 'a'.repeat(64) }
  const planting: Planting = {
    name: 'Bed',
    outline: [
      [0, 0],
      [8, 0],
      [8, 5],
      [0, 5],
    ],
    heightM: 0.2,
    species: [
      { item, name: 'Box', share: 3, smallest: 0.8, largest: 1.2 },
      { item: { ...item, code: 'SHR-0002' }, name: 'Dogwood', share: 1, smallest: 0.5, largest: 1 },
    ],
    perM2: 2,
    leastM: 0.3,
    edgeM: 0,
    clearM: 0.2,
    seed: 11,
    group: null,
    isHidden: false,
    without: [],
  }

  it('is as dense as it says, in its shares, within the sizes of each, clear of what stands there', () => {
    const keepOut = [{ x: 4, z: 2.5, radiusM: 0.8 }]
    const plants = growPlanting(planting, keepOut)
    expect(areaOf(planting.outline)).toBe(40)
    expect(plants.length).toBe(80)
    const dogwood = plants.filter(p => p.species === 1)
    expect(dogwood.length / plants.length).toBeGreaterThan(0.12)
    expect(dogwood.length / plants.length).toBeLessThan(0.4)
    for (const p of plants) {
      const { smallest, largest } = planting.species[p.species]
      expect(p.scale).toBeGreaterThanOrEqual(smallest)
      expect(p.scale).toBeLessThanOrEqual(largest)
      expect(p.position[1]).toBe(0.2)
      expect(Math.hypot(p.position[0] - 4, p.position[2] - 2.5)).toBeGreaterThanOrEqual(1)
    }
    expect(growPlanting(planting, keepOut)).toEqual(plants)
  })

  it('stands along a line, one so far from the next round its corners, each near its place', () => {
    const line: Planting['outline'] = [
      [0, 0],
      [4, 0],
      [4, 3],
    ]
    const row = growPlanting({ ...planting, outline: line, along: { spacingM: 1.5, strayM: 0 } }, [])
    expect(row.map(p => [p.position[0], p.position[2]])).toEqual([
      [0, 0],
      [1.5, 0],
      [3, 0],
      [4, 0.5],
      [4, 2],
    ])
    expect(lengthOf(line)).toBe(7)
    const strayed = growPlanting({ ...planting, outline: line, along: { spacingM: 1.5, strayM: 0.2 } }, [])
    strayed.forEach((p, k) => {
      const away = Math.hypot(p.position[0] - row[k].position[0], p.position[2] - row[k].position[2])
      expect(away).toBeGreaterThan(0)
      expect(away).toBeLessThanOrEqual(0.2)
    })
    // A longer line has the same plants and more; what stands in the way is left out.
    const longer = growPlanting({ ...planting, outline: [...line, [4, 9]], along: { spacingM: 1.5, strayM: 0.2 } }, [])
    expect(longer.slice(0, strayed.length)).toEqual(strayed)
    const blocked = growPlanting({ ...planting, outline: line, along: { spacingM: 1.5, strayM: 0 } }, [
      { x: 1.5, z: 0, radiusM: 0.1 },
    ])
    expect(blocked.map(p => p.index)).toEqual([0, 2, 3, 4])
    // Two corners are no area.
    expect(growPlanting({ ...planting, outline: line.slice(0, 2) }, [])).toEqual([])
  })

  it('grows on the surface that lies there, not where it is too steep, and nowhere beside it', () => {
    // Level at 1 m for x < 4, then rising to 5 m at x = 8: 45 degrees; and a lower floor under it all.
    const quad = (corners: Vec3[]) => ({
      positions: Float32Array.from(corners.flat()),
      indices: Uint32Array.of(0, 2, 1, 0, 3, 2),
    })
    const flat = quad([
      [0, 1, 0],
      [4, 1, 0],
      [4, 1, 4],
      [0, 1, 4],
    ])
    const slope = quad([
      [4, 1, 0],
      [8, 5, 0],
      [8, 5, 4],
      [4, 1, 4],
    ])
    const below = quad([
      [0, -2, 0],
      [8, -2, 0],
      [8, -2, 4],
      [0, -2, 4],
    ])
    const ground = createGround([flat, slope, below])
    expect(ground(2, 2)).toEqual({ y: 1, steepDeg: 0 })
    expect(ground(6, 1)!.y).toBeCloseTo(3, 6)
    expect(ground(6, 1)!.steepDeg).toBeCloseTo(45, 4)
    expect(ground(2, 4.5)).toBeNull()
    expect(createGround([])(0, 0)).toBeNull()
    const plants = growPlanting(planting, [], ground)
    expect(plants.length).toBeGreaterThan(50)
    for (const { position } of plants) {
      expect(position[2]).toBeLessThanOrEqual(4)
      expect(position[1]).toBeCloseTo(Math.max(1, position[0] - 3), 5)
    }
    const gentle = growPlanting({ ...planting, steepestDeg: 30 }, [], ground)
    expect(gentle).toEqual(plants.filter(p => p.position[0] <= 4))
  })

  it('loses one plant without moving another', () => {
    const plants = growPlanting(planting, [])
    const [, gone] = plants
    expect(growPlanting({ ...planting, without: [gone.index] }, [])).toEqual(plants.filter(p => p !== gone))
    expect(growPlanting({ ...planting, species: planting.species.map(s => ({ ...s, share: 0 })) }, [])).toEqual([])
  })
})

describe('what is misplaced', () => {
  const box = (x: number, y: number): { min: Vec3; max: Vec3 } => ({ min: [x, y, 0], max: [x + 1, y + 1, 1] })

  it('floats, sinks or overlaps; what stands on another does none of it', () => {
    const found = findMisplaced(
      new Map([
        ['table', box(0, 0)],
        ['lamp', box(0.2, 1)],
        ['lost', box(5, 0.4)],
        ['sunk', box(8, -0.1)],
        ['one', box(12, 0)],
        ['other', box(12.6, 0)],
      ]),
    )
    expect(found.map(f => [f.id, f.kind, Number(f.byM.toFixed(3))])).toEqual([
      ['lost', 'floats', 0.4],
      ['sunk', 'sinks', 0.1],
      ['one', 'overlaps', 0.4],
    ])
  })
})
