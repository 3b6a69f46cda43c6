import { describe, expect, it } from 'vitest'
import { sinceKept, toKeptLine } from './schedule-changes'
import { cellOf, layOutSchedule, sayWhere, showSchedule, totalOf } from './schedule-layout'
import { scheduleRow as row } from './schedule-row.fixture'

describe('a schedule', () => {
  const floor = { of: 'Stage', part: 'floor', group: null, type: null, count: 1, amount: 8 }
  const seats = { of: 'Chair', part: 'seat', group: 'Seats', type: null, count: 4, amount: 2 }
  const oak = row('TIM-0002', { where: [floor, seats], cost: 50, net: 10, gross: 10 })
  const fir = row('TIM-0001', { maker: '', net: 30 })
  const lamp = row('LUM-0001', { kind: 'light', unit: 'pieces', net: 3, category: 'Downlights' })

  it('says figures with their units, and keeps them to go on with', () => {
    expect(cellOf(oak, 'quantity')).toEqual({ text: '10.00 m²', figure: 10, unit: 'm²' })
    expect(cellOf(lamp, 'quantity')).toEqual({ text: '3', figure: 3, unit: '' })
    expect(cellOf(oak, 'litres')).toEqual({ text: '', figure: null, unit: '' })
    expect(cellOf(oak, 'maker').text).toBe('Oddmere')
  })

  it('says of each line what it was where it is held against an earlier one, and at the end what went', () => {
    const layout = { columns: ['code', 'quantity', 'where'], group: 'none', sort: 'code' } as const
    expect(showSchedule({ rows: [oak], gone: [] }, { ...layout, columns: [...layout.columns] }).columns).toEqual(layout.columns)
    const held = sinceKept([oak, lamp], [toKeptLine({ ...oak, net: 8 }), toKeptLine(fir)])
    const { columns, sections } = showSchedule(held, { ...layout, columns: [...layout.columns] })
    expect(columns).toEqual(['code', 'quantity', 'was', 'where'])
    const lines = sections.flatMap(s => s.rows.map(r => columns.map(c => cellOf(r, c).text)))
    expect(lines).toEqual([
      ['LUM-0001', '3', 'new', ''],
      ['TIM-0002', '10.00 m²', '8.00 m²', 'floor; Chair: seat ×4'],
      ['TIM-0001', '', '30.00 m²', ''],
    ])
    expect(sections.at(-1)!.title).toBe('Not in it any more')
    const [same] = sinceKept([oak], [toKeptLine(oak)]).rows
    // Read, it is the same; a spreadsheet goes on with the figure.
    expect(cellOf(same, 'was')).toMatchObject({ text: 'the same', figure: 10 })
  })

  it('says where things are used, each once with its parts', () => {
    expect(sayWhere(oak)).toBe('floor; Chair: seat ×4')
    expect(sayWhere({ where: [{ ...seats, part: '' }] })).toBe('Chair')
  })

  it('stands in groups and in order', () => {
    expect(
      layOutSchedule([oak, lamp, fir], { group: 'kind', sort: 'code' }).map(s => [s.title, s.rows.map(r => r.code)]),
    ).toEqual([
      ['Materials', ['TIM-0001', 'TIM-0002']],
      ['Luminaires', ['LUM-0001']],
    ])
    expect(layOutSchedule([oak, fir], { group: 'none', sort: 'quantity' })[0].rows.map(r => r.net)).toEqual([30, 10])
    expect(layOutSchedule([oak, fir], { group: 'maker', sort: 'code' }).map(s => s.title)).toEqual(['Maker not known', 'Oddmere'])
  })

  it('by where it is used splits what a row says, so that all groups together say the same', () => {
    const sections = layOutSchedule([oak], { group: 'place', sort: 'code' })
    expect(sections.map(s => [s.title, s.rows[0].net, s.rows[0].cost])).toEqual([
      ['Floor, walls and ceiling', 8, 40],
      ['Seats', 2, 10],
    ])
  })

  it('by type of part tells the finish of a type from what was put on a surface, and both together are all of it', () => {
    const walls = { ...floor, part: 'wall north', type: 'W3', amount: 6 }
    const lime = row('PLA-0001', { where: [walls, { ...walls, part: 'wall east', amount: 1 }, floor], net: 15, gross: 30 })
    const sections = layOutSchedule([lime, lamp], { group: 'type', sort: 'code' })
    expect(sections.map(s => [s.title, s.rows.map(r => [r.code, r.net, r.gross])])).toEqual([
      ['Type W3', [['PLA-0001', 7, 14]]],
      [
        'By surface',
        [
          ['LUM-0001', 3, 11],
          ['PLA-0001', 8, 16],
        ],
      ],
    ])
    expect(sayWhere(lime)).toBe('W3: wall north, wall east; floor')
  })

  it('adds up what is known, and says nothing where nothing is', () => {
    expect(totalOf([oak, fir], 'cost')).toBe(50)
    expect(totalOf([oak, fir], 'weightKg')).toBeNull()
  })
})
