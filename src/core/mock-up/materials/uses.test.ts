import { describe, expect, it } from 'vitest'
import { applyChange, isNoChange } from '../scene/change'
import { EMPTY_SCENE, type ItemRef, sceneSchema } from '../scene/scene'
import { listRefs } from './list-refs'
import { replaceRef, useOf } from './uses'

const refOf = (code: string, key: string, version = 1): ItemRef => ({ code, version, inputKey: key.repeat(64) })
const [SOFA, OAK, FIR, SKY] = [refOf('SOF-0001', 'a'), refOf('TIM-0001', 'b'), refOf('TRE-0001', 'c'), refOf('SKY-0001', 'd')]
const scene = sceneSchema.parse({
  ...EMPTY_SCENE,
  stage: { kind: 'empty', materials: { ground: { material: OAK } } },
  pieces: {
    a: { item: SOFA, name: 'Sofa', position: [0, 0, 0], turn: [0, 0, 0, 1], materials: { legs: { material: OAK } } },
    b: { item: SOFA, name: 'Sofa', position: [2, 0, 0], turn: [0, 0, 0, 1] },
  },
  plantings: {
    bed: {
      name: 'Bed',
      outline: [
        [0, 0],
        [1, 0],
        [1, 1],
      ],
      species: [{ item: FIR, name: 'Fir', share: 1, smallest: 0.9, largest: 1.1 }],
      perM2: 1,
      seed: 1,
    },
  },
  skies: { day: { item: SKY, name: 'Day' } },
  choices: { legs: { name: 'legs', spots: [{ piece: 'b', part: 'legs' }], variants: [null, { material: OAK }], shown: 0 } },
})

describe('the use of an item', () => {
  it('is told by where it stands, what it is assigned to and what is assigned to parts of it', () => {
    expect(useOf(scene, 'SOF-0001')).toMatchObject({ pieces: 2, assignedParts: ['legs'], parts: 0 })
    expect(useOf(scene, 'TIM-0001')).toMatchObject({ pieces: 0, parts: 2 })
    expect(useOf(scene, 'TRE-0001')).toMatchObject({ isPlanted: true })
    expect(useOf(scene, 'SKY-0001')).toMatchObject({ isSky: true })
    expect(useOf(scene, 'TIM-0002')).toBeNull()
  })

  it('goes over to another version everywhere, and back to the byte', () => {
    for (const item of [SOFA, OAK, FIR, SKY]) {
      const next = { ...item, version: 2, inputKey: 'e'.repeat(64) }
      const after = applyChange(scene, replaceRef(scene, item.code, next)).scene
      const refs = listRefs(after).filter(r => r.code === item.code)
      expect(refs).toEqual([next])
      expect(JSON.stringify(applyChange(after, replaceRef(after, item.code, item)).scene)).toBe(JSON.stringify(scene))
    }
    expect(isNoChange(replaceRef(scene, 'TIM-0009', OAK))).toBe(true)
  })
})
