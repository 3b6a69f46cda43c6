import { describe, expect, it } from 'vitest'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { makeRow } from './batch-item.fixture'
import {
  describeAccepted,
  doubtOf,
  findHome,
  groupRows,
  isDoubtful,
  isOffStandard,
  listFindingKinds,
  viewRows,
} from './worklist-view'

const finding = (code: string, severity: 'mustFix' | 'shouldFix' | 'note', fix: 'flipGreen' | null = null) => ({
  id: null,
  code,
  severity,
  message: '',
  fix,
  before: null,
  after: null,
})

const rows = [
  makeRow(1),
  makeRow(2, { findings: [finding('tileSeam', 'shouldFix'), finding('tileSeam', 'shouldFix')] }),
  makeRow(3, { findings: [finding('normalDirectX', 'mustFix', 'flipGreen'), finding('tileSeam', 'shouldFix')] }),
  makeRow(4, { state: 'failed' }),
  makeRow(5, { needsWidth: true }),
  makeRow(6, { state: 'accepted', findings: [finding('normalDirectX', 'mustFix', 'flipGreen')] }),
  makeRow(7, { fixes: [{ code: 'flipGreen', finding: 'normalDirectX', subject: null }] }),
]
const ids = (list: readonly BatchItem[]) => list.map(i => i.id)

describe('a worklist', () => {
  it('is filtered by what needs a look, by a finding, by what was fixed', () => {
    expect(ids(viewRows(rows, '', 'category'))).toEqual([1, 2, 3, 4, 5, 6, 7])
    expect(ids(viewRows(rows, 'doubtful', 'category'))).toEqual([2, 3, 4, 5])
    expect(ids(viewRows(rows, 'tileSeam', 'category'))).toEqual([2, 3])
    expect(ids(viewRows(rows, 'fixed', 'category'))).toEqual([7])
  })

  it('shows the most doubtful first: what cannot be read, then what must be fixed, then the rest', () => {
    expect(ids(viewRows(rows, '', 'doubt'))).toEqual([4, 3, 5, 2, 1, 7, 6])
    expect(doubtOf(rows[5])).toBeLessThan(doubtOf(rows[0]))
    expect(isDoubtful(makeRow(8, { categoryConfidence: 0.2 }))).toBe(true)
  })

  it('by name, whatever the categories', () => {
    expect(ids(viewRows(rows, '', 'name'))).toEqual([7, 6, 5, 4, 3, 2, 1])
  })

  it('knows what is off the standard, and which row a loose file comes from', () => {
    const off = [makeRow(1, { missingFacts: ['maker'] }), makeRow(2, { strangeTags: ['x'] }), makeRow(3, { proposedName: 'Row' })]
    expect(off.every(isOffStandard)).toBe(true)
    expect(
      [makeRow(4), makeRow(5, { proposedTags: 'accepting settles it' }), makeRow(6, { ...off[0], state: 'accepted' })].some(
        isOffStandard,
      ),
    ).toBe(false)
    expect(ids(viewRows([...off, makeRow(9)], 'offStandard', 'category'))).toEqual([1, 2, 3])
    const files = (...paths: string[]) => ({ files: paths.map(path => ({ path, role: 'baseColor', url: '' })) })
    const homes = [makeRow(1, files('A/Oak_col.png')), makeRow(2, files('A/Oakum_col.png')), makeRow(3, files('B/Oak_col.png'))]
    expect(findHome(homes, 'A/Oak_height.png')?.id).toBe(1)
    expect(findHome(homes, 'A/Oakum_height.png')?.id).toBe(2)
    expect(findHome(homes, 'C/Oak_height.png')).toBeNull()
    expect(findHome(homes, 'A/Ash.png')).toBeNull()
  })

  it('says what became of what was accepted', () => {
    expect(
      describeAccepted([makeRow(1), makeRow(2), makeRow(3, { decision: 'newVersion' }), makeRow(4, { decision: 'link' })]),
    ).toBe('2 items accepted as drafts, 1 new version, 1 linked to what the library has.')
    expect(describeAccepted([makeRow(1)])).toBe('1 item accepted as a draft.')
    expect(describeAccepted([makeRow(1), makeRow(2, { twinOf: 'row y' })])).toBe(
      '1 item accepted as a draft, 1 linked to what the library has.',
    )
  })

  it('counts each finding once a row, and leaves out what is accepted', () => {
    expect(listFindingKinds(rows)).toEqual([
      { code: 'tileSeam', rows: 2, isFixable: false },
      { code: 'normalDirectX', rows: 1, isFixable: true },
    ])
  })
})

describe('headings', () => {
  const told = (list: readonly BatchItem[], order: 'folder' | 'lacking') =>
    groupRows(list, order)?.map(g => [g.title, ids(g.items)])

  it('by what rows lack: each row once, under what keeps it first from being accepted', () => {
    expect(told([...rows, makeRow(8, { categoryConfidence: 0.2 }), makeRow(9, { missingFacts: ['maker'] })], 'lacking')).toEqual([
      ['Could not be read', [4]],
      ['No real-world width', [5]],
      ['No category', [8]],
      ['Must be fixed', [3]],
      ['Facts that the standard asks for', [9]],
      ['Lacks nothing', [1, 2, 7]],
      ['Accepted', [6]],
    ])
  })

  it('by folders, in the order of their names; other orders have none', () => {
    const placed = [
      makeRow(1, { sourceFolder: 'Stone' }),
      makeRow(2, { sourceFolder: 'Brick' }),
      makeRow(3, { sourceFolder: 'Stone' }),
    ]
    expect(told(placed, 'folder')).toEqual([
      ['Brick', [2]],
      ['Stone', [1, 3]],
    ])
    expect(groupRows(placed, 'name')).toBeNull()
  })
})
