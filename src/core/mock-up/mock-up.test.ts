import { describe, expect, it } from 'vitest'
import { NO_TURN, type Quaternion, rotate, turnAbout } from '../math/quaternion'
import { createRandom, type Random } from '../math/random'
import type { Vec3 } from '../math/vec3'
import { assignTo, listReached, type PartBook, type Reach } from './materials/wearing'
import { applyChange, type Change, joinChanges, listOvertaken, mendReferences } from './scene/change'
import { act, beginHistory, type History, redo, takeIn, undo } from './scene/history'
import {
  duplicate,
  isHidden,
  listMixedVersions,
  lock,
  move,
  place,
  putInGroup,
  remove,
  replace,
  scale,
  show,
  turn,
} from './scene/pieces'
import { EMPTY_SCENE, type ItemRef, type Scene, sceneSchema } from './scene/scene'

const itemOf = (code: string, version = 1): ItemRef => ({ code, version, inputKey: 'a'.repeat(64) })
const SOFA = itemOf('SOF-0001')
const OAK = {
  material: itemOf('TIM-0003'),
  turnDeg: 0,
  offsetM: [0, 0] as [number, number],
  mapping: 'own' as const,
  override: {},
}

const with2 = (): Scene => {
  const first = applyChange(EMPTY_SCENE, place('a', SOFA, { name: 'Sofa', at: [1, 0, 2] })).scene
  return applyChange(first, place('b', SOFA, { name: 'Sofa', at: [3, 0, 2], turnDeg: 90 })).scene
}
const near = (actual: readonly number[], expected: readonly number[]) =>
  actual.forEach((v, k) => {
    expect(v).toBeCloseTo(expected[k], 9)
  })

describe('turns', () => {
  it('are counter-clockwise as seen from the tip of their axis', () => {
    near(rotate(turnAbout([0, 1, 0], 90), [0, 0, 1]), [1, 0, 0])
    near(rotate(turnAbout([0, 0, 2], 90), [1, 0, 0]), [0, 1, 0])
    near(rotate(NO_TURN, [1, 2, 3]), [1, 2, 3])
  })
})

describe('a change of a scene', () => {
  it('writes nothing of what it is given, and shares what it leaves alone', () => {
    const before = with2()
    const text = JSON.stringify(before)
    const { scene, inverse } = applyChange(before, move(before, ['a'], [1, 0, 0]))
    expect(JSON.stringify(before)).toBe(text)
    expect(scene.pieces.b).toBe(before.pieces.b)
    near(scene.pieces.a.position, [2, 0, 2])
    expect(JSON.stringify(applyChange(scene, inverse).scene)).toBe(text)
  })

  it('two of different things go together in either order; of the same thing the later stands, and it is told', () => {
    const scene = with2()
    const [ours, theirs] = [move(scene, ['a'], [1, 0, 0]), turn(scene, ['b'], 30, [0, 0, 0])]
    const one = applyChange(applyChange(scene, ours).scene, theirs).scene
    const other = applyChange(applyChange(scene, theirs).scene, ours).scene
    expect(JSON.stringify(one)).toBe(JSON.stringify(other))
    expect(listOvertaken(ours, theirs)).toEqual([])
    const later = move(scene, ['a', 'b'], [0, 0, 5])
    expect(listOvertaken(ours, later)).toEqual([{ table: 'pieces', id: 'a' }])
    expect(listOvertaken(ours, ours)).toEqual([])
  })

  it('lets references go whose target is gone', () => {
    const grouped = applyChange(
      with2(),
      putInGroup(with2(), ['a'], { id: 'g', made: { name: 'Seats', isHidden: false, isLocked: false } }),
    ).scene
    expect(grouped.pieces.a.group).toBe('g')
    const broken = applyChange(grouped, { groups: { g: null } }).scene
    const whole = applyChange(broken, mendReferences(broken)).scene
    expect(whole.pieces.a.group).toBeNull()
    expect(mendReferences(whole)).toEqual({})
  })
})

describe('pieces', () => {
  it('come upright at true size where they are put, and pass the schema', () => {
    const scene = with2()
    expect(sceneSchema.parse(scene)).toEqual(scene)
    expect(scene.pieces.b.scale).toBe(1)
    near(rotate(scene.pieces.b.turn as Quaternion, [0, 1, 0]), [0, 1, 0])
  })

  it('are turned about a pivot together: where they stand and how they stand', () => {
    const scene = with2()
    const turned = applyChange(scene, turn(scene, ['a', 'b'], 180, [2, 0, 2])).scene
    near(turned.pieces.a.position, [3, 0, 2])
    near(turned.pieces.b.position, [1, 0, 2])
    near(rotate(turned.pieces.a.turn as Quaternion, [0, 0, 1]), [0, 0, -1])
  })

  it('are scaled about a pivot, and not by nothing', () => {
    const scene = with2()
    const large = applyChange(scene, scale(scene, ['b'], 2, [1, 0, 2])).scene
    near(large.pieces.b.position, [5, 0, 2])
    expect(large.pieces.b.scale).toBe(2)
    expect(() => scale(scene, ['b'], 0, [0, 0, 0])).toThrow(RangeError)
  })

  it('stay where they are locked, by themselves or by their group; and are free again', () => {
    const scene = applyChange(with2(), lock(with2(), ['a'], true)).scene
    const moved = applyChange(scene, move(scene, ['a', 'b'], [1, 0, 0])).scene
    near(moved.pieces.a.position, [1, 0, 2])
    near(moved.pieces.b.position, [4, 0, 2])
    expect(applyChange(scene, remove(scene, ['a'])).scene.pieces.a).toBeDefined()
    const free = applyChange(scene, lock(scene, ['a'], false)).scene
    expect(applyChange(free, remove(free, ['a'])).scene.pieces.a).toBeUndefined()
    const group = { name: 'Seats', isHidden: false, isLocked: true }
    const held = applyChange(free, putInGroup(free, ['a'], { id: 'g', made: group })).scene
    expect(move(held, ['a'], [1, 0, 0])).toEqual({ pieces: {} })
  })

  it('are hidden by themselves or with their group', () => {
    const scene = with2()
    const hidden = applyChange(scene, show(scene, ['a'], false)).scene
    expect(isHidden(hidden, hidden.pieces.a)).toBe(true)
    const group = { name: 'Seats', isHidden: true, isLocked: false }
    const grouped = applyChange(scene, putInGroup(scene, ['b'], { id: 'g', made: group })).scene
    expect([isHidden(grouped, grouped.pieces.a), isHidden(grouped, grouped.pieces.b)]).toEqual([false, true])
  })

  it('reaches one part, the piece, every instance, what is named alike and what wears the same; what is locked keeps its own', () => {
    const scene = { ...with2(), stage: { kind: 'empty' as const, materials: {} } }
    const book: PartBook = {
      partsOf: () => [
        { name: 'seat', own: 'cloth' },
        { name: 'seat back', own: 'cloth' },
        { name: 'legs', own: 'steel' },
      ],
      stageParts: [{ name: 'ground', own: '' }],
    }
    const reached = (reach: Reach, from: Scene = scene) =>
      listReached(from, { piece: 'a', part: 'seat' }, reach, book).map(s => `${s.piece} ${s.part}`)
    expect(reached('part')).toEqual(['a seat'])
    expect(reached('piece')).toEqual(['a seat', 'a seat back', 'a legs'])
    expect(reached('instances')).toEqual(['a seat', 'b seat'])
    expect(reached('named')).toEqual(['a seat', 'a seat back', 'b seat', 'b seat back'])
    expect(reached('alike')).toEqual(reached('named'))
    const locked = applyChange(scene, lock(scene, ['b'], true)).scene
    expect(reached('named', locked)).toEqual(['a seat', 'a seat back'])
    const spots = listReached(scene, { piece: 'a', part: 'seat' }, 'instances', book)
    const given = applyChange(scene, assignTo(scene, spots, OAK)).scene
    expect(Object.keys(given.pieces.b.materials)).toEqual(['seat'])
    expect(reached('alike', given)).toEqual(['a seat', 'b seat'])
    const taken = applyChange(given, assignTo(given, [{ piece: 'b', part: 'seat' }], null)).scene
    expect(taken.pieces.b.materials).toEqual({})
    expect(Object.keys(taken.pieces.a.materials)).toEqual(['seat'])
    const floor = applyChange(scene, assignTo(scene, [{ piece: null, part: 'ground' }], OAK)).scene
    expect(floor.stage.materials.ground).toEqual(OAK)
  })

  it('are copied as instances, told where their versions differ, and replaced at true size or fitted', () => {
    const scene = with2()
    const copied = applyChange(
      scene,
      duplicate(scene, ['a'], [0, 0, 1], id => `${id}2`),
    ).scene
    near(copied.pieces.a2.position, [1, 0, 3])
    expect(listMixedVersions(copied).size).toBe(0)
    const newer = applyChange(copied, replace(copied, ['a2'], itemOf('SOF-0001', 2), { name: 'Sofa' })).scene
    expect([...listMixedVersions(newer)]).toEqual([['SOF-0001', [2, 1]]])
    const fitted = replace(scene, ['a'], itemOf('TRE-0001'), { name: 'Birch', fit: { beforeM: 6, afterM: 4 } })
    expect(applyChange(scene, fitted).scene.pieces.a).toMatchObject({ scale: 1.5, name: 'Birch' })
  })
})

/** Any change that a person could make next. */
function anything(random: Random, scene: Scene, serial: number): Change {
  const ids = Object.keys(scene.pieces)
  const some = ids.filter(() => random.next() < 0.4)
  const at = (): Vec3 => [random.between(-5, 5), 0, random.between(-5, 5)]
  switch (random.index(9)) {
    case 0:
      return place(`p${serial}`, itemOf(`CHR-000${random.index(4)}`), {
        name: 'Chair',
        at: at(),
        turnDeg: random.between(0, 360),
      })
    case 1:
      return move(scene, some, at())
    case 2:
      return turn(scene, some, random.between(-180, 180), at())
    case 3:
      return scale(scene, some, random.between(0.5, 2), at())
    case 4:
      return remove(scene, some.slice(0, 1))
    case 5:
      return putInGroup(scene, some, {
        id: `g${serial}`,
        made: { name: 'Group', isHidden: random.next() < 0.5, isLocked: random.next() < 0.3 },
      })
    case 6: {
      const [group] = Object.keys(scene.groups)
      return group ? { groups: { [group]: null } } : { stage: { kind: 'terrace', materials: {}, widthM: 8, depthM: 5 } }
    }
    case 7:
      return ids.length > 0 ? assignTo(scene, [{ piece: ids[0], part: 'seat' }], OAK) : {}
    default:
      return { stage: { kind: 'room', materials: {}, widthM: random.between(2, 9), depthM: 4, heightM: 3, openings: [] } }
  }
}

describe('the way back', () => {
  it('leads byte for byte through every scene there was, and on again, under random sequences of changes', () => {
    for (let seed = 1; seed <= 20; seed++) {
      const random = createRandom(seed)
      let history: History = beginHistory(EMPTY_SCENE)
      const seen = [JSON.stringify(history.scene)]
      for (let k = 0; k < 60; k++) {
        history = act(history, anything(random, history.scene, k))
        seen.push(JSON.stringify(history.scene))
        expect(sceneSchema.safeParse(history.scene).success).toBe(true)
        expect(mendReferences(history.scene)).toEqual({})
      }
      for (let k = 59; k >= 0; k--) {
        history = undo(history)
        expect(JSON.stringify(history.scene)).toBe(seen[k])
      }
      expect(undo(history)).toEqual(history)
      for (let k = 1; k <= 60; k++) {
        history = redo(history)
        expect(JSON.stringify(history.scene)).toBe(seen[k])
      }
      expect(redo(history)).toEqual(history)
    }
  })

  it('takes one drag back as one step, and something new ends the way on', () => {
    let history = beginHistory(with2())
    const begun = JSON.stringify(history.scene)
    for (let k = 0; k < 12; k++) history = act(history, move(history.scene, ['a'], [0.1, 0, 0]), 'drag 1')
    history = act(history, move(history.scene, ['a'], [0, 0, 1]), 'drag 2')
    expect(history.past).toHaveLength(2)
    history = undo(undo(history))
    expect(JSON.stringify(history.scene)).toBe(begun)
    history = act(history, move(history.scene, ['b'], [1, 0, 0]))
    expect(history.future).toEqual([])
  })

  it('is one’s own: what somebody else did meanwhile is not taken back with it', () => {
    let history = act(beginHistory(with2()), move(with2(), ['a'], [1, 0, 0]))
    history = takeIn(history, move(history.scene, ['b'], [0, 0, 7]))
    history = undo(history)
    near(history.scene.pieces.a.position, [1, 0, 2])
    near(history.scene.pieces.b.position, [3, 0, 9])
    expect(history.past).toEqual([])
  })

  it('changes one after the other are the same as both joined', () => {
    const scene = with2()
    const first = move(scene, ['a'], [1, 0, 0])
    const between = applyChange(scene, first).scene
    const second = turn(between, ['a', 'b'], 20, [0, 0, 0])
    const stepwise = applyChange(between, second).scene
    expect(JSON.stringify(applyChange(scene, joinChanges(first, second)).scene)).toBe(JSON.stringify(stepwise))
  })
})
