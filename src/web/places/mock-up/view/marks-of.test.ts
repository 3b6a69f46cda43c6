import { describe, expect, it } from 'vitest'
import type { Box } from '#core/mock-up/placing/snapping'
import { EMPTY_SCENE, type ItemRef, type Scene, sceneSchema } from '#core/mock-up/scene/scene'
import type { Selection } from '../state/use-selection'
import type { Staged } from '../state/use-staged'
import { besideOf, drawnLinesOf, outlinesOf } from './marks-of'

const SOFA: ItemRef = { code: 'SOF-0001', version: 1, inputKey: 'a'.repeat(64) }
const FIR: ItemRef = { code: 'TRE-0001', version: 1, inputKey: 'c'.repeat(64) }
const scene: Scene = sceneSchema.parse({
  ...EMPTY_SCENE,
  pieces: {
    a: { item: SOFA, name: 'Sofa', position: [2, 0, 0], turn: [0, 0, 0, 1] },
    b: { item: FIR, name: 'Not there yet', position: [0, 0, 0], turn: [0, 0, 0, 1] },
  },
  lights: { lamp: { name: 'Lamp', kind: 'bulb', position: [0, 2, 1] } },
  plantings: {
    bed: {
      name: 'Bed',
      outline: [
        [0, 0],
        [3, 0],
        [3, 2],
      ],
      species: [{ item: FIR, name: 'Fir', share: 1, smallest: 0.9, largest: 1.1 }],
      perM2: 1,
      seed: 1,
      heightM: 0.5,
    },
  },
})
const own: Box = { min: [-1, 0, -0.5], max: [1, 1, 0.5] }
const inScene: Box = { min: [1, 0, -0.5], max: [3, 1, 0.5] }
const staged = { ownBoxes: new Map([[SOFA.inputKey, own]]), boxes: new Map([['a', inScene]]), stage: [] } as unknown as Staged
const chosen = (what: Selection['chosen'], ids: string[] = []) => ({ chosen: what, ids }) as unknown as Selection

describe('outlines', () => {
  it('are about what is chosen where it stands, and about what a material would go to', () => {
    const [only, ...more] = outlinesOf(scene, staged, { ids: ['a', 'b'] }, [], null)
    // What is not there yet has none.
    expect(more).toEqual([])
    expect(only.box).toBe(own)
    expect(only.toWorld[3]).toBe(2)
    expect(outlinesOf(scene, staged, { ids: [] }, [], { piece: 'a', part: 'legs' })).toEqual([
      { toWorld: expect.anything(), box: inScene },
    ])
    expect(outlinesOf(scene, staged, { ids: [] }, [], { piece: null, part: 'floor' })).toEqual([])
  })
})

describe('lines', () => {
  it('are the outline of the planting that is chosen, closed, at its height; and nothing else', () => {
    const lines = drawnLinesOf(scene, { kind: 'planting', id: 'bed', plant: null }, null)
    expect(lines).toHaveLength(3)
    expect(lines[2][1]).toEqual(lines[0][0])
    expect(lines[0][0][1]).toBeGreaterThan(0.5)
    expect(lines[0][0][1]).toBeLessThan(0.6)
    expect(drawnLinesOf(scene, null, null)).toEqual([])
  })

  it('are what is being drawn before that', () => {
    const drawing = {
      kind: 'distance' as const,
      points: [[0, 1, 0] as [number, number, number], [1, 1, 0] as [number, number, number]],
      on: [],
    }
    expect(drawnLinesOf(scene, { kind: 'planting', id: 'bed', plant: null }, drawing)).toEqual([
      [
        [0, 1, 0],
        [1, 1, 0],
      ],
    ])
  })
})

describe('a card', () => {
  it('stands beside what is chosen, and leaves the end of a short shadow free', () => {
    const piece = chosen({ kind: 'pieces', ids: ['a'], part: null }, ['a'])
    expect(besideOf(scene, staged.boxes, piece, null)).toEqual(inScene)
    const beside = besideOf(scene, staged.boxes, piece, { azimuthDeg: 90, elevationDeg: 45 })!
    // Lit from the east, its shadow of a metre ends in the west of its middle, under it.
    expect(beside.min[0]).toBeCloseTo(inScene.min[0], 9)
    expect(beside.max).toEqual(inScene.max)
    const long = besideOf(scene, staged.boxes, piece, { azimuthDeg: 90, elevationDeg: 20 })!
    expect(long.min[0]).toBeLessThan(0)
    expect(long.max).toEqual(inScene.max)
    // One that is far off is not worth the distance.
    expect(besideOf(scene, staged.boxes, piece, { azimuthDeg: 90, elevationDeg: 4 })).toEqual(inScene)
  })

  it('stands beside a lamp; and at the edge of the window where nothing is there to stand beside', () => {
    const at = [0, 2, 1]
    expect(besideOf(scene, staged.boxes, chosen({ kind: 'light', id: 'lamp' }), null)).toEqual({ min: at, max: at })
    expect(besideOf(scene, staged.boxes, chosen(null), null)).toBeNull()
  })
})
