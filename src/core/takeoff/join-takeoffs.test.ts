import { describe, expect, it } from 'vitest'
import { joinTakeoffs } from './join-takeoffs'
import type { Takeoff } from './measure-scene'

const ref = (code: string, version = 1) => ({ code, version, inputKey: `${code}${version}` })
const place = (of: string, part: string, areaM2: number) => ({ of, part, group: 'seats', type: null, count: 1, areaM2, edgeM: 1 })
const room: Takeoff = {
  materials: [
    { ref: ref('TIM-0001'), name: 'Oak', areaM2: 12, edgeM: 3, places: [place('Stage', 'floor', 10), place('Chair', 'seat', 2)] },
    { ref: null, name: 'glass', areaM2: 1, edgeM: 0, places: [place('Lamp', 'bulb', 1)] },
  ],
  counted: [{ kind: 'piece', ref: ref('CHR-0001'), name: 'Chair', count: 4, scaled: 1, groups: ['seats'] }],
  missing: ['TAB-0001'],
}
const terrace: Takeoff = {
  materials: [
    { ref: ref('TIM-0001', 2), name: 'Oak', areaM2: 5, edgeM: 2, places: [place('Bench', '', 5)] },
    { ref: null, name: 'glass', areaM2: 2, edgeM: 0, places: [] },
  ],
  counted: [
    { kind: 'piece', ref: ref('CHR-0001'), name: 'Chair', count: 2, scaled: 0, groups: [] },
    { kind: 'plant', ref: ref('CHR-0001'), name: 'Chair', count: 7, scaled: 0, groups: [] },
  ],
  missing: ['TAB-0001'],
}

describe('joinTakeoffs', () => {
  const joined = joinTakeoffs([
    { title: 'Room', takeoff: room },
    { title: 'Terrace', takeoff: terrace },
  ])

  it('adds amounts up by code, whatever version is where', () => {
    const oak = joined.materials.find(m => m.ref?.code === 'TIM-0001')!
    expect(oak).toMatchObject({ areaM2: 17, edgeM: 5 })
    expect(joined.materials.find(m => m.ref === null)).toMatchObject({ name: 'glass', areaM2: 3 })
    expect(joined.materials).toHaveLength(2)
  })

  it('names every place after its scene', () => {
    const { places } = joined.materials[0]
    expect(places.map(p => [p.of, p.part, p.group, p.areaM2])).toEqual([
      ['Room', 'floor', 'Room', 10],
      ['Room', 'Chair seat', 'Room', 2],
      ['Terrace', 'Bench', 'Terrace', 5],
    ])
  })

  it('counts pieces apart from plants, and says once what could not be measured', () => {
    expect(joined.counted.map(c => [c.kind, c.count, c.scaled, c.groups])).toEqual([
      ['piece', 6, 1, ['Room', 'Terrace']],
      ['plant', 7, 0, ['Terrace']],
    ])
    expect(joined.missing).toEqual(['TAB-0001'])
  })

  it('changes nothing of what it is given, and is empty of nothing', () => {
    expect(room.materials[0].areaM2).toBe(12)
    expect(joinTakeoffs([])).toEqual({ materials: [], counted: [], missing: [] })
  })
})
