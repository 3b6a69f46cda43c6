import { describe, expect, it } from 'vitest'
import { createBox } from '../../geometry/shapes'
import { createMaterial } from '../../material/open-pbr'
import { NOTHING_M } from '../../render/integrator/trace-passes'
import { putInType } from '../materials/part-types'
import { assignTo } from '../materials/wearing'
import { applyChange } from '../scene/change'
import { place, putInGroup } from '../scene/pieces'
import { EMPTY_SCENE, type ItemRef, type Scene, type Shot, sceneSchema } from '../scene/scene'
import type { Resources } from '../things/resources'
import { traceShotPasses } from './shot-passes'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 1, inputKey: key.repeat(64) })
const [POST, RED] = [refOf('OBJ-0001', 'a'), refOf('ENA-0001', 'b')]
const box = createBox(1, 1, 1)
const partOf = (name: string, raise: number) => ({
  name,
  mesh: { ...box, positions: box.positions.map((v, i) => (i % 3 === 1 ? v + raise : v)) },
  hasUvs: true,
  material: createMaterial('grey', { baseColor: [0.5, 0.5, 0.5] }),
  images: [],
})
const resources: Resources = {
  models: new Map([[POST.inputKey, [partOf('foot', 0), partOf('head', 1)]]]),
  materials: new Map([[RED.inputKey, { material: createMaterial('red', { baseColor: [0.7, 0.02, 0.02] }), images: [] }]]),
  skies: new Map(),
  webs: new Map(),
}
/** Level, 10 m from the first post's front, of a frame 12 m high and wide there. */
const shot: Shot = {
  ...{ name: 'Front', place: 1, aspect: 1, isUpright: true, ev: 0, sky: null, variants: {}, focus: null },
  position: [0, 1, 10.5],
  target: [0, 1, 0],
  focalMm: 20,
}
const put = (scene: Scene, change: Parameters<typeof applyChange>[1]) => applyChange(scene, change).scene

/** One at the origin as it was made, one 2 m to the right and 5 m behind, turned; the head of the first is red. */
const scene = (() => {
  const first = put(EMPTY_SCENE, place('a', POST, { name: 'Post', at: [0, 0, 0] }))
  const second = put(first, place('b', POST, { name: 'Post', at: [2, 0, -5] }))
  const assigned = assignTo(second, [{ piece: 'a', part: 'head' }], {
    ...{ material: RED, turnDeg: 0, offsetM: [0, 0], mapping: 'own', override: {} },
  })
  return sceneSchema.parse(put(second, assigned))
})()

describe('the passes of a shot', () => {
  const WIDTH = 120
  const passes = traceShotPasses(scene, shot, resources, { width: WIDTH, seed: 7 })!
  const { masks } = passes
  const at = (x: number, y: number) => y * WIDTH + x
  /** Pixels that a mask covers. */
  const areaOf = (mask: Uint8Array = new Uint8Array()) => mask.reduce((sum, v) => sum + v / 255, 0)
  /** A metre in pixels so far away. */
  const metre = (away: number) => (WIDTH / 12) * (10 / away)

  it('cover what they name, as large as it is seen', () => {
    expect([...masks.things.keys()].filter(n => n.startsWith('Post')).sort()).toEqual(['Post', 'Post 2'])
    // Two cubes over each other, and the same 5 m farther away.
    expect(areaOf(masks.things.get('Post'))).toBeCloseTo(2 * metre(10) ** 2, -1)
    expect(areaOf(masks.materials.get('ENA-0001'))).toBeCloseTo(metre(10) ** 2, -1)
    const [item, first, second] = [masks.items.get('OBJ-0001'), masks.things.get('Post'), masks.things.get('Post 2')]
    expect(areaOf(item)).toBeCloseTo(areaOf(first) + areaOf(second), 6)
    expect(areaOf(masks.materials.get('OBJ-0001 grey'))).toBeCloseTo(areaOf(item) - areaOf(masks.materials.get('ENA-0001')), 0)
    expect(areaOf(second)).toBeGreaterThan(2 * metre(15.5) ** 2)
    // Their edges are as soft as the picture's.
    expect(first!.some(v => v > 0 && v < 255)).toBe(true)
  })

  it('cover groups and types by name too, each with what is of it', () => {
    const { scene: grouped } = applyChange(
      scene,
      putInGroup(scene, ['a', 'b'], { id: 'g', made: { name: 'Posts', isHidden: false, isLocked: false } }),
    )
    const { scene: typed } = applyChange(
      grouped,
      putInType(grouped, [{ piece: 'b', part: 'head' }], { id: 't', begun: { name: 'H1' } }),
    )
    const own = traceShotPasses(typed, shot, resources, { width: WIDTH, seed: 7 })!.masks
    expect([[...own.groups.keys()], [...own.types.keys()]]).toEqual([['Posts'], ['H1']])
    expect(areaOf(own.groups.get('Posts'))).toBeCloseTo(areaOf(masks.items.get('OBJ-0001')), 6)
    expect(areaOf(own.types.get('H1'))).toBeGreaterThan(0)
    expect(areaOf(own.types.get('H1'))).toBeLessThan(areaOf(masks.things.get('Post 2')))
    expect([masks.groups.size, masks.types.size]).toEqual([0, 0])
  })

  it('say the colour, the way a surface faces, and how far it is, square to the film', () => {
    const head = at(60, 55)
    expect([...passes.baseColor.data.slice(head * 3, head * 3 + 3)].map(v => Number(v.toFixed(4)))).toEqual([0.7, 0.02, 0.02])
    expect([...passes.normal.data.slice(head * 3, head * 3 + 3)].map(v => Math.round(v * 1e6) / 1e6 + 0)).toEqual([0, 0, 1])
    expect(passes.depth.data[head]).toBeCloseTo(10, 4)
    expect(passes.depth.data[at(56, 64)]).toBeCloseTo(10, 4)
    expect(passes.depth.data[at(60, 2)]).toBe(NOTHING_M)
  })

  it('end when nobody wants them any more, and are the same for the same seed', () => {
    expect(traceShotPasses(scene, shot, resources, { width: 64, seed: 1 }, share => share < 0.3)).toBeNull()
    const again = traceShotPasses(scene, shot, resources, { width: WIDTH, seed: 7 })!
    expect(again.masks.things).toEqual(masks.things)
    expect(again.normal.data).toEqual(passes.normal.data)
  })
})
