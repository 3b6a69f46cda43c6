import { describe, expect, it } from 'vitest'
import type { TableRow } from '#shared/contracts/table.contract'
import { ChipRows } from './chip-rows'
import { describePoint, placeOf, toColorMapOption } from './colors/color-map-option'
import { neighboursOf } from './neighbours'
import { parseCells, pasteCells, toCell } from './table/paste-cells'
import { listColumns, NAME, USUAL_COLUMNS } from './table/table-columns'
import { listLines, parentOf, waysTo } from './tree/visible-branches'

describe('rows of chips', () => {
  const groups = [
    { value: 'a', count: 5 },
    { value: 'b', count: 1 },
    { value: '', count: 3 },
  ]

  it('begin anew with each group, under its head', () => {
    const { rows } = new ChipRows(9, 4, groups)
    expect(rows.map(r => (r.head ? `[${r.head.value}]` : `${r.first}+${r.count}`))).toEqual([
      ...['[a]', '0+4', '4+1', '[b]', '5+1', '[]', '6+3'],
    ])
    expect(new ChipRows(9, 4, null).rows).toHaveLength(3)
    expect(new ChipRows(0, 4, null).rows).toHaveLength(0)
  })

  it('are found by any chip of theirs, with the head above the first', () => {
    const layout = new ChipRows(9, 4, groups)
    for (let index = 0; index < 9; index++) {
      const row = layout.rows[layout.rowOf(index)]
      expect(row.head).toBeNull()
      expect(row.first <= index && row.head === null && index < row.first + row.count).toBe(true)
    }
    expect([0, 4, 5].map(index => layout.topRowOf(index))).toEqual([0, 2, 3])
  })

  it('lead up and down in the same column, past heads and over short rows', () => {
    const layout = new ChipRows(9, 4, groups)
    expect(layout.above(3, 1)).toBe(4)
    expect(layout.above(4, 1)).toBe(5)
    expect(layout.above(8, -1)).toBe(5)
    expect(layout.above(5, 1)).toBe(6)
    expect(layout.above(0, -1)).toBe(0)
    expect(layout.above(7, 1)).toBe(7)
  })
})

const rowOf = (id: number, name: string, maker: string, widthMm: number): TableRow => ({
  chip: {
    ...{ id, code: `TIM-${id}`, name, kind: 'material', category: 'surfaces.timber', state: 'draft', library: 'House library' },
    ...{ figure: '', preview: null, isOlderPreview: false, isOwnPicture: false, dots: [] },
  } as TableRow['chip'],
  terms: { maker: [maker], tag: ['pale', 'wide'] },
  figures: { widthMm },
  facts: { sheen: 'matt' },
})

describe('cells', () => {
  const columns = listColumns(['sheen', 'lrv', 'peakCandela', 'fireClass'], path => path)
  const column = (id: string) => columns.find(c => c.id === id)!
  const rows = [rowOf(1, 'Oak', 'Oddmere', 1200), rowOf(2, 'Ash', 'Oddmere', 900)]

  it('are of every usual column, each once; what the wall is narrowed by is no fact besides', () => {
    const ids = columns.map(c => c.id)
    expect(new Set(ids).size).toBe(ids.length)
    for (const id of USUAL_COLUMNS) expect(ids).toContain(id)
    expect(ids).toContain('fact:sheen')
    expect(ids).not.toContain('fact:lrv')
    expect(column('fact:fireClass')).toMatchObject({ title: 'Fire class', writes: 'fireClass' })
    expect(column('fact:peakCandela').writes).toBeNull()
    expect(column('widthMm').read(rows[0])).toBe('1.2 m')
    expect(column('tag').read(rows[0])).toBe('pale, wide')
  })

  it('take what a person may say, and nothing that stands there already', () => {
    expect(toCell(rows[0], column('maker'), ' Hollowbrook ')).toEqual({ id: 1, facts: { maker: 'Hollowbrook' } })
    expect(toCell(rows[0], column('maker'), '')).toEqual({ id: 1, facts: { maker: null } })
    expect(toCell(rows[0], column('maker'), 'Oddmere')).toBeNull()
    expect(toCell(rows[0], column(NAME), 'Oak plank')).toEqual({ id: 1, name: 'Oak plank', facts: {} })
    expect(toCell(rows[0], column(NAME), '  ')).toBeNull()
    expect(toCell(rows[0], column('widthMm'), '2 m')).toBeNull()
  })

  it('are laid on as they were copied, and say what found no place', () => {
    const shown = ['name', 'widthMm', 'maker'].map(column)
    const cells = parseCells('Oak plank\t1.2 m\t"Hollow\tbrook"\r\nAsh\t2 m\tOddmere\tmore\r\nLast\r\n')
    expect(cells).toHaveLength(3)
    expect(pasteCells(cells, rows, shown)).toEqual({
      items: [{ id: 1, name: 'Oak plank', facts: { maker: 'Hollow\tbrook' } }],
      unwritten: ['Real width'],
      beyond: 2,
    })
    expect(pasteCells([['Oak']], rows, shown)).toEqual({ items: [], unwritten: [], beyond: 0 })
  })
})

describe('the map of colours', () => {
  const point = (given: object) => ({
    id: 1,
    code: 'TIM-1',
    name: 'Oak <b>',
    lightness: 50,
    chroma: 40,
    hueDeg: 70,
    hex: '#8a6a40',
    ...given,
  })
  const inks = { ink: '#111111', line: '#999999', sheet: '#eeeeee' }

  it('has each at its hue, and greys left of all hues, whatever hue is measured of them', () => {
    expect(placeOf(point({}))).toBe(70)
    const greys = [0, 90, 359].map(hueDeg => placeOf(point({ chroma: 3, hueDeg })))
    expect(Math.max(...greys)).toBeLessThan(0)
    const option = toColorMapOption([point({}), point({ id: 2, hex: '#222222', lightness: 12 })], inks, id => id === 2)
    const [{ data }] = option.series as { data: { value: number[]; itemStyle: { color: string; borderWidth: number } }[] }[]
    expect(data.map(d => [d.value[1], d.itemStyle.color, d.itemStyle.borderWidth])).toEqual([
      [50, '#8a6a40', 0.5],
      [12, '#222222', 2],
    ])
  })

  it('shows what things look like where their pictures are known, and their colour where not', () => {
    const option = toColorMapOption(
      [point({}), point({ id: 2 })],
      inks,
      () => false,
      id => (id === 2 ? '/api/previews/7?w=192' : null),
    )
    const [{ data, symbol }] = option.series as { symbol: string; data: { symbol?: string }[] }[]
    expect([symbol, ...data.map(d => d.symbol)]).toEqual(['rect', undefined, 'image:///api/previews/7?w=192'])
  })

  it('says what a point is, and takes no name for markup', () => {
    expect(describePoint(point({}))).toBe('<b>Oak &#60;b&#62;</b><br>TIM-1<br>L* 50, C* 40, h 70°')
    expect(describePoint(point({ chroma: 2 }))).not.toContain('h ')
  })
})

describe('neighbours', () => {
  it('are those that were read without a gap, sixty to either side', () => {
    const codeAt = (index: number) => (index >= 10 && index < 300 && index !== 40 ? `C${index}` : undefined)
    expect(neighboursOf(codeAt, 12).at(0)).toBe('C10')
    expect(neighboursOf(codeAt, 12).at(-1)).toBe('C39')
    expect(neighboursOf(codeAt, 150)).toHaveLength(121)
  })
})

describe('the tree beside the wall', () => {
  const branches = ['a', 'a.b', 'a.b.c', 'a.d', 'e'].map(path => ({
    path,
    title: `Title ${path.at(-1)}`,
    depth: path.split('.').length - 1,
    trail: '',
  }))

  it('shows what is open, and all that leads to what is searched', () => {
    const paths = (open: string[], words = '') => listLines(branches, new Set(open), words).map(l => l.path)
    expect(paths([])).toEqual(['a', 'e'])
    expect(paths(['a'])).toEqual(['a', 'a.b', 'a.d', 'e'])
    // What is open below something closed is out of sight.
    expect(paths(['a.b'])).toEqual(['a', 'e'])
    expect(paths([], 'title c')).toEqual(['a', 'a.b', 'a.b.c'])
    expect(paths(['a'], 'nothing')).toEqual([])
    expect(listLines(branches, new Set(['a']), '').map(l => [l.hasBelow, l.isOpen])).toEqual([
      ...[
        [true, true],
        [true, false],
        [false, false],
        [false, false],
      ],
    ])
    expect(waysTo('a.b.c')).toEqual(['a', 'a.b', 'a.b.c'])
    expect([parentOf('a.b'), parentOf('a'), waysTo('')]).toEqual(['a', '', []])
  })
})
