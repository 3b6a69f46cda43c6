import { describe, expect, it } from 'vitest'
import { applyChange, type Change, mendReferences } from '../scene/change'
import { act, beginHistory, undo } from '../scene/history'
import { duplicate, place, remove } from '../scene/pieces'
import { type Assignment, EMPTY_SCENE, type ItemRef, type Scene, type Shot, type Spot, shotSchema } from '../scene/scene'
import { wornAt } from './assign-parts'
import { listRefs } from './list-refs'
import { addVariant, choiceAt, dropVariant, listShown, sceneOfShot, showVariant } from './variants'
import { assignTo } from './wearing'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 1, inputKey: key.repeat(64) })
const SOFA = refOf('SOF-0001', 'a')
const cloth = (key: string): Assignment => ({
  material: refOf(`TEX-000${key}`, key),
  turnDeg: 0,
  offsetM: [0, 0],
  mapping: 'own',
  override: {},
})
const [WOOL, LINEN, FELT] = [cloth('1'), cloth('2'), cloth('3')]
const SEATS: Spot[] = [
  { piece: 'a', part: 'seat' },
  { piece: 'b', part: 'seat' },
]
const FRESH = { id: 'seats', name: 'seat' }
const done = (scene: Scene, change: Change): Scene => applyChange(scene, change).scene
const sofas = (): Scene => {
  const one = done(EMPTY_SCENE, place('a', SOFA, { name: 'Sofa', at: [0, 0, 0] }))
  return done(one, place('b', SOFA, { name: 'Sofa', at: [3, 0, 0] }))
}
/** Two sofas whose seats may be as they came, in linen or in felt; felt is shown. */
const assigned = (): Scene => {
  const first = done(sofas(), addVariant(sofas(), SEATS, LINEN, FRESH))
  return done(first, addVariant(first, [SEATS[0]], FELT, { id: 'unused', name: 'unused' }))
}
const wornOn = (scene: Scene) => SEATS.map(spot => wornAt(scene, spot)?.material.code ?? 'its own')
const shotWith = (variants: Shot['variants']): Shot =>
  shotSchema.parse({ name: 'One', place: 1, position: [0, 1, 3], target: [0, 0, 0], focalMm: 28, aspect: 1.5, variants })

describe('a choice', () => {
  it('begins with what its parts wear, and shows what was added last on all of them', () => {
    const scene = assigned()
    expect(Object.keys(scene.choices)).toEqual(['seats'])
    expect(scene.choices.seats.variants.map(v => v?.material.code ?? 'its own')).toEqual(['its own', 'TEX-0002', 'TEX-0003'])
    expect(wornOn(scene)).toEqual(['TEX-0003', 'TEX-0003'])
  })

  it('shows another on all its parts, counted round from either end', () => {
    const scene = assigned()
    expect(wornOn(done(scene, showVariant(scene, 'seats', 1)))).toEqual(['TEX-0002', 'TEX-0002'])
    expect(wornOn(done(scene, showVariant(scene, 'seats', 3)))).toEqual(['its own', 'its own'])
    expect(wornOn(done(scene, showVariant(scene, 'seats', -1)))).toEqual(['TEX-0003', 'TEX-0003'])
  })

  it('is undone to the byte, whatever was done to it', () => {
    const before = assigned()
    let history = beginHistory(before)
    history = act(history, addVariant(before, [SEATS[1]], WOOL, FRESH))
    history = act(history, showVariant(history.scene, 'seats', 0))
    history = act(history, dropVariant(history.scene, 'seats', 2))
    history = act(history, remove(history.scene, ['a', 'b']))
    expect(history.scene.choices).toEqual({})
    for (let k = 0; k < 4; k++) history = undo(history)
    expect(JSON.stringify(history.scene)).toBe(JSON.stringify(before))
  })

  it('takes a material put on all its parts as the variant that is shown, and lets go of parts that one is assigned to alone', () => {
    const scene = assigned()
    const all = done(scene, assignTo(scene, SEATS, WOOL))
    expect(all.choices.seats.variants[2]?.material.code).toBe('TEX-0001')
    const alone = done(scene, assignTo(scene, [SEATS[0]], WOOL))
    expect(alone.choices.seats.spots).toEqual([SEATS[1]])
    expect(wornOn(alone)).toEqual(['TEX-0001', 'TEX-0003'])
    // What is only laid otherwise is laid so on all of them.
    const turned = done(scene, assignTo(scene, [SEATS[0]], { ...FELT, turnDeg: 90 }))
    expect(SEATS.map(s => wornAt(turned, s)?.turnDeg)).toEqual([90, 90])
    expect(turned.choices.seats.spots).toHaveLength(2)
  })

  it('is no choice any more when one is left, which the parts then wear', () => {
    const scene = assigned()
    const two = done(scene, dropVariant(scene, 'seats', 2))
    expect(wornOn(two)).toEqual(['TEX-0002', 'TEX-0002'])
    const one = done(two, dropVariant(two, 'seats', 0))
    expect(one.choices).toEqual({})
    expect(wornOn(one)).toEqual(['TEX-0002', 'TEX-0002'])
  })

  it('goes with copies of its pieces, and its materials are among what the scene refers to', () => {
    const scene = assigned()
    const copied = done(
      scene,
      duplicate(scene, ['a'], [1, 0, 0], () => 'c'),
    )
    expect(choiceAt(copied, { piece: 'c', part: 'seat' })?.id).toBe('seats')
    expect(listRefs(scene).map(r => r.code)).toEqual(expect.arrayContaining(['TEX-0002', 'TEX-0003']))
  })
})

describe('a shot', () => {
  it('shows its own variant where it has one, of the scene as it is elsewhere', () => {
    const scene = done(assigned(), { shots: { one: shotWith({ seats: 1 }) } })
    expect(wornOn(sceneOfShot(scene, scene.shots.one))).toEqual(['TEX-0002', 'TEX-0002'])
    expect(sceneOfShot(scene, shotWith({}))).toBe(scene)
    expect(sceneOfShot(scene, scene.shots.one)).toBe(sceneOfShot(scene, shotWith({ seats: 1 })))
    expect(listShown(scene, scene.shots.one).map(s => s.worn?.material.code)).toEqual(['TEX-0002'])
  })

  it('follows when a variant before its own is taken out, and lets go of one that is not there any more', () => {
    const scene = done(assigned(), { shots: { one: shotWith({ seats: 2 }) } })
    expect(done(scene, dropVariant(scene, 'seats', 0)).shots.one.variants).toEqual({ seats: 1 })
    expect(done(scene, dropVariant(scene, 'seats', 2)).shots.one.variants).toEqual({})
    const broken = { ...scene, choices: {} }
    expect(done(broken, mendReferences(broken)).shots.one.variants).toEqual({})
  })
})
