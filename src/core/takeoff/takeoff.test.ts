import { describe, expect, it } from 'vitest'
import { boundaryLengthM } from '../geometry/boundary-length'
import { createBox } from '../geometry/shapes'
import { createMaterial } from '../material/open-pbr'
import { EMPTY_SCENE, type ItemRef, sceneSchema } from '../mock-up/scene/scene'
import { amountOf, readFigure } from './amounts'
import { measureScene } from './measure-scene'

const refOf = (code: string, key: string): ItemRef => ({ code, version: 1, inputKey: key.repeat(64) })
const [CUBE, OAK, PAINT, FIR] = [refOf('OBJ-0001', 'a'), refOf('TIM-0001', 'b'), refOf('PNT-0001', 'c'), refOf('TRE-0001', 'd')]
const part = (name: string, own: string, side: number) => ({
  name,
  mesh: createBox(side, side, side),
  material: createMaterial(own),
  hasUvs: true,
  images: [],
})
const models = new Map([
  [CUBE.inputKey, [part('body', 'grey', 1), part('foot', 'steel', 0.5)]],
  [FIR.inputKey, [part('leaves', 'green', 1)]],
])
const scene = sceneSchema.parse({
  ...EMPTY_SCENE,
  stage: {
    kind: 'room',
    widthM: 5,
    depthM: 4,
    heightM: 3,
    openings: [{ wall: 'north', leftM: 1, sillM: 0, widthM: 2, heightM: 1 }],
    materials: { floor: { material: OAK }, 'wall north': { material: PAINT }, 'wall south': { material: PAINT } },
  },
  groups: { seats: { name: 'Seats' }, gone: { name: 'Gone', isHidden: true } },
  pieces: {
    a: {
      item: CUBE,
      name: 'Cube',
      position: [0, 0, 0],
      turn: [0, 0, 0, 1],
      group: 'seats',
      materials: { body: { material: OAK } },
    },
    b: {
      item: CUBE,
      name: 'Cube',
      position: [2, 0, 0],
      turn: [0, 0, 0, 1],
      group: 'seats',
      scale: 2,
      materials: { body: { material: OAK } },
    },
    c: { item: CUBE, name: 'Hidden', position: [4, 0, 0], turn: [0, 0, 0, 1], group: 'gone' },
    d: { item: refOf('OBJ-0009', 'e'), name: 'Lost', position: [4, 0, 0], turn: [0, 0, 0, 1] },
  },
})

describe('a takeoff by types', () => {
  it('tells what is the finish of a type from what was put on a surface, and counts each part once', () => {
    const types = {
      w3: {
        name: 'W3',
        spots: ['north', 'south', 'east'].map(side => ({ piece: null, part: `wall ${side}` })),
        finish: { material: PAINT },
      },
      f: { name: 'F1', spots: [{ piece: 'a', part: 'body' }], finish: { material: PAINT } },
    }
    const { materials } = measureScene(sceneSchema.parse({ ...scene, types }), models)
    const paint = materials.find(m => m.ref?.code === 'PNT-0001')!
    // The east wall wears nothing yet and the cube another material: neither counts by its type.
    expect(paint.places.map(p => [p.part, p.type])).toEqual([
      ['wall north', 'W3'],
      ['wall south', 'W3'],
    ])
    expect(paint.areaM2).toBeCloseTo(2 * 15 - 2, 5)
    const oak = materials.find(m => m.ref?.code === 'TIM-0001')!
    expect(new Set(oak.places.map(p => p.type))).toEqual(new Set([null]))
    expect(oak.areaM2).toBeCloseTo(20 + 6 + 24, 5)
  })
})

describe('a takeoff', () => {
  const { materials, counted, missing } = measureScene(scene, models)
  const of = (code: string) => materials.find(m => m.ref?.code === code)!

  it('measures every part at its true size, with the openings left out of walls', () => {
    // 20 m² of floor; a cube of 1 m has 6 m², one twice as large 24.
    expect(of('TIM-0001').areaM2).toBeCloseTo(20 + 6 + 24, 5)
    expect(of('PNT-0001').areaM2).toBeCloseTo(2 * 15 - 2, 5)
    expect(of('TIM-0001').places).toMatchObject([
      { of: 'Stage', part: 'floor', count: 1 },
      { of: 'Cube', part: 'body', group: 'Seats', count: 2 },
    ])
    // What a model came with is told by its own name.
    expect(materials.find(m => m.name === 'steel')).toMatchObject({ ref: null })
    expect(materials.find(m => m.name === 'steel')!.areaM2).toBeCloseTo(1.5 + 6, 5)
  })

  it('counts what stands there, tells what is not at its true size, and leaves out what is hidden', () => {
    expect(counted).toEqual([
      { kind: 'piece', ref: CUBE, name: 'Cube', count: 2, scaled: 1, groups: ['Seats'] },
      { kind: 'piece', ref: expect.anything(), name: 'Lost', count: 1, scaled: 0, groups: [] },
    ])
    expect(missing).toEqual(['OBJ-0009'])
  })

  it('counts plants by their species, as many as grow there', () => {
    const planted = sceneSchema.parse({
      ...EMPTY_SCENE,
      plantings: {
        bed: {
          name: 'Bed',
          outline: [
            [0, 0],
            [10, 0],
            [10, 10],
            [0, 10],
          ],
          species: [{ item: FIR, name: 'Fir', share: 1, smallest: 0.9, largest: 1.1 }],
          perM2: 0.5,
          seed: 3,
        },
      },
    })
    const [firs] = measureScene(planted, models).counted
    expect(firs).toMatchObject({ kind: 'plant', name: 'Fir' })
    expect(firs.count).toBeGreaterThan(40)
    expect(firs.count).toBeLessThanOrEqual(50)
    const hidden = { ...planted, plantings: { bed: { ...planted.plantings.bed, isHidden: true } } }
    expect(measureScene(hidden, models).counted).toEqual([])
  })

  it('measures edges where a surface ends: round an opening too, and none of what is closed', () => {
    const wall = of('PNT-0001').places.find(p => p.part === 'wall north')!
    // 5 + 3 + 3 and the rest of the foot, then up, across and down the opening; its reveals end at the outside.
    expect(wall.edgeM).toBeGreaterThan(5 + 3 + 3 + 3)
    const cube = createBox(1, 1, 1)
    const at = (v: number) => [...cube.positions.subarray(v * 3, v * 3 + 3)] as unknown as [number, number, number]
    expect(boundaryLengthM(cube, at)).toBe(0)
    const open = { ...cube, indices: cube.indices.subarray(6) }
    expect(boundaryLengthM(open, at)).toBeCloseTo(4, 5)
  })
})

describe('an amount', () => {
  const facts = { coverageM2L: 10, coats: 2, weightKgM2: 0.3, weightKg: null, price: 4 }
  it('of paint is its litres by coats and coverage; waste is bought and weighs nothing', () => {
    expect(amountOf(50, 'm2', facts, 0.1)).toEqual({
      unit: 'm2',
      net: 50,
      gross: 55.00000000000001,
      litres: 11.000000000000002,
      weightKg: 15,
      cost: 220.00000000000003,
    })
    expect(amountOf(50, 'm2', { ...facts, coverageM2L: null }).litres).toBeNull()
  })

  it('of pieces is whole, and of what nobody knows is nothing', () => {
    const none = { coverageM2L: null, coats: null, weightKgM2: null, weightKg: 8, price: null }
    expect(amountOf(10, 'pieces', none, 0.05)).toEqual({
      unit: 'pieces',
      net: 10,
      gross: 11,
      litres: null,
      weightKg: 80,
      cost: null,
    })
    expect(amountOf(10, 'pieces', none).gross).toBe(10)
  })

  it('is read from what people type', () => {
    expect(['12.5', '12,5 m²/l', '1 200 kg', 'about 3', 7, 'none', '', null].map(readFigure)).toEqual([
      12.5,
      12.5,
      1200,
      3,
      7,
      null,
      null,
      null,
    ])
  })
})
