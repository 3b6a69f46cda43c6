import { describe, expect, it } from 'vitest'
import { applyChange, mendReferences } from '../scene/change'
import { duplicate, remove } from '../scene/pieces'
import { EMPTY_SCENE, type ItemRef, type Scene, type Spot, sceneSchema } from '../scene/scene'
import { listRefs } from './list-refs'
import { finishTypes, leaveType, markOf, proposeTypes, putInType, renameType, takeTypes, typeAt } from './part-types'
import { replaceRef, useOf } from './uses'
import { addVariant } from './variants'
import { assignTo, listReached, type PartBook } from './wearing'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 1, inputKey: key.repeat(64) })
const worn = (material: ItemRef) => ({
  material,
  turnDeg: 0,
  offsetM: [0, 0] as [number, number],
  mapping: 'own' as const,
  override: {},
})
const [LIME, CLAY, OAK, BOX] = [refOf('PLA-0001', 'a'), refOf('PLA-0002', 'b'), refOf('TIM-0001', 'c'), refOf('OBJ-0001', 'd')]
const wall = (side: string): Spot => ({ piece: null, part: `wall ${side}` })
const PANEL: Spot = { piece: 'p', part: 'panel' }
const room: Scene = sceneSchema.parse({
  ...EMPTY_SCENE,
  stage: { kind: 'room', widthM: 5, depthM: 4, heightM: 3, openings: [], materials: { 'wall north': { material: LIME } } },
  pieces: { p: { item: BOX, name: 'Panel', position: [0, 0, 0], turn: [0, 0, 0, 1] } },
})
const BOOK: PartBook = {
  stageParts: ['floor', 'wall north', 'wall east', 'wall south', 'wall west'].map(name => ({ name, own: '' })),
  partsOf: () => [{ name: 'panel', own: 'grey' }],
}
const make = (scene: Scene, change: Parameters<typeof applyChange>[1]): Scene => applyChange(scene, change).scene
/** North, east and the panel are W3, in lime as the north wall was. */
const typed = make(room, putInType(room, [wall('north'), wall('east'), PANEL], { id: 'w3', begun: { name: 'W3' } }))
const all = (scene: Scene) => listReached(scene, wall('east'), 'type', BOOK)

describe('a type of parts', () => {
  it('begins with what its first part wears, and all its parts put that on', () => {
    expect(typed.types.w3).toMatchObject({ name: 'W3', finish: { material: LIME } })
    expect(typed.stage.materials['wall east'].material).toEqual(LIME)
    expect(typed.pieces.p.materials.panel.material).toEqual(LIME)
    expect(typeAt(typed, PANEL)?.id).toBe('w3')
    expect(typeAt(typed, wall('west'))).toBeNull()
    // As one step, and back.
    const { inverse, scene } = applyChange(room, putInType(room, [wall('north'), PANEL], { id: 'w3', begun: { name: 'W3' } }))
    expect(applyChange(scene, inverse).scene).toEqual(room)
  })

  it('reaches all its parts, on the stage and on pieces, and no part that is not there; without a type only the part itself', () => {
    expect(all(typed)).toEqual([wall('north'), wall('east'), PANEL])
    expect(listReached(typed, wall('west'), 'type', BOOK)).toEqual([wall('west')])
    expect(listReached(typed, wall('east'), 'type', { ...BOOK, stageParts: [{ name: 'wall east', own: '' }] })).toEqual([
      wall('east'),
      PANEL,
    ])
  })

  it('has as finish what goes onto all of it; a part alone may have its own', () => {
    const clay = make(typed, assignTo(typed, all(typed), worn(CLAY)))
    expect(clay.types.w3.finish?.material).toEqual(CLAY)
    const one = make(clay, assignTo(clay, [wall('east')], worn(OAK)))
    expect(one.types.w3.finish?.material).toEqual(CLAY)
    const typeOf = finishTypes(one)
    expect(typeOf(wall('north'), one.stage.materials['wall north'])).toBe('W3')
    expect(typeOf(wall('east'), one.stage.materials['wall east'])).toBeNull()
    expect(typeOf(wall('west'), worn(CLAY))).toBeNull()
    const bare = make(clay, assignTo(clay, all(clay), null))
    expect(bare.types.w3.finish).toBeNull()
    expect(finishTypes(bare)(wall('north'), undefined)).toBeNull()
  })

  it('is left for another, keeps its name where none is said, and goes with its last part', () => {
    const two = make(typed, putInType(typed, [wall('east'), wall('west')], { id: 'w4', begun: { name: 'W4' } }))
    expect(two.types.w3.spots).toEqual([wall('north'), PANEL])
    expect(two.types.w4.spots).toEqual([wall('east'), wall('west')])
    const back = make(two, putInType(two, [wall('east'), wall('west')], { id: 'w3' }))
    expect(Object.keys(back.types)).toEqual(['w3'])
    expect(back.stage.materials['wall west'].material).toEqual(LIME)
    const none = make(typed, leaveType(typed, all(typed)))
    expect(none.types).toEqual({})
    expect(none.stage.materials['wall east'].material).toEqual(LIME)
    expect(renameType(typed, 'w3', '  ')).toEqual({})
    expect(make(typed, renameType(typed, 'w3', ' W3b ')).types.w3.name).toBe('W3b')
    expect(putInType(typed, [wall('west')], { id: 'gone' })).toEqual({})
  })

  it('is joined by copies of its pieces, and lets go of pieces that are taken away', () => {
    const copied = make(
      typed,
      duplicate(typed, ['p'], [1, 0, 0], () => 'q'),
    )
    expect(copied.types.w3.spots).toContainEqual({ piece: 'q', part: 'panel' })
    const taken = make(copied, remove(copied, ['p']))
    expect(make(taken, mendReferences(taken)).types.w3.spots).toEqual([
      wall('north'),
      wall('east'),
      { piece: 'q', part: 'panel' },
    ])
  })

  it('takes a newer version of its finish, names it as used, and follows the variant that its parts show', () => {
    const newer = { ...LIME, version: 2, inputKey: 'e'.repeat(64) }
    const swapped = make(typed, replaceRef(typed, 'PLA-0001', newer))
    expect(swapped.types.w3.finish?.material).toEqual(newer)
    expect(listRefs(swapped)).toContainEqual(newer)
    const assigned = make(typed, assignTo(typed, [wall('north')], worn(OAK)))
    const without = make(assigned, assignTo(assigned, [wall('east'), PANEL], worn(OAK)))
    expect(useOf(without, 'PLA-0001')).not.toBeNull()
    const offered = make(typed, addVariant(typed, all(typed), worn(OAK), { id: 'c', name: 'Walls' }))
    const chosen = make(offered, assignTo(offered, all(offered), worn(CLAY)))
    expect(chosen.types.w3.finish?.material).toEqual(CLAY)
    expect(chosen.choices.c.variants[1]?.material).toEqual(CLAY)
  })

  it('is said by names of parts', () => {
    expect(
      ['Wall_W3_012', 'EW-02 inner face', 'wall (w3a)', 'F1.floor', 'Wall 12', 'W', 'Basement wall', 'XWALL3'].map(markOf),
    ).toEqual(['W3', 'EW-02', 'W3A', 'F1', null, null, null, null])
  })
})

describe('types that the names of parts say', () => {
  const NAMES = ['Wall_W3_001', 'Wall_W3_002', 'Wall_W3_003', 'Wall_W10_001', 'Wall_W10_002', 'Slab_F1', 'Terrace']
  const site: Scene = sceneSchema.parse({
    ...EMPTY_SCENE,
    stage: {
      ...{ kind: 'model', model: { key: 'e'.repeat(64), name: 'Site' }, wears: {}, without: [] },
      materials: Object.fromEntries([
        ['Wall_W3_001', { material: CLAY }],
        ['Wall_W3_002', { material: LIME }],
        ['Wall_W3_003', { material: LIME }],
      ]),
    },
  })
  let n = 0
  const newId = () => `t${n++}`

  it('are proposed where several parts say them, in order, and of parts that are of none yet', () => {
    expect(proposeTypes(site, NAMES).map(t => [t.name, t.spots.length])).toEqual([
      ['W3', 3],
      ['W10', 2],
    ])
    const taken = make(site, takeTypes(site, proposeTypes(site, NAMES), newId))
    expect(proposeTypes(taken, NAMES)).toEqual([])
    // A part that came with the next state of the model joins the type that is there.
    expect(proposeTypes(taken, [...NAMES, 'Wall_W3_004'])).toEqual([
      { name: 'W3', spots: [{ piece: null, part: 'Wall_W3_004' }] },
    ])
  })

  it('change nothing that one sees: the finish is what most of the parts wear, and the others keep theirs', () => {
    const taken = make(site, takeTypes(site, proposeTypes(site, NAMES), newId))
    expect(taken.stage).toEqual(site.stage)
    const [w3, w10] = ['W3', 'W10'].map(name => Object.values(taken.types).find(t => t.name === name)!)
    expect(w3.finish?.material).toEqual(LIME)
    expect(w10.finish).toBeNull()
    const counts = finishTypes(taken)
    expect(counts({ piece: null, part: 'Wall_W3_001' }, site.stage.materials.Wall_W3_001)).toBeNull()
    expect(counts({ piece: null, part: 'Wall_W3_002' }, site.stage.materials.Wall_W3_002)).toBe('W3')
  })

  it('join one that has the name already, and as one step go back', () => {
    const begun = make(site, putInType(site, [{ piece: null, part: 'Terrace' }], { id: 'own', begun: { name: 'w3' } }))
    const { scene, inverse } = applyChange(begun, takeTypes(begun, proposeTypes(begun, NAMES), newId))
    expect(scene.types.own.spots).toHaveLength(4)
    expect(Object.keys(scene.types)).toHaveLength(2)
    expect(applyChange(scene, inverse).scene).toEqual(begun)
  })
})
