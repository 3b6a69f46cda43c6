import { describe, expect, it } from 'vitest'
import type { BatchItem } from '#shared/contracts/intake.contract'
import { describeAccepted, doubtOf, findHome, isDoubtful, isOffStandard, listFindingKinds, viewRows } from './worklist-view'

const row = (id: number, over: Partial<BatchItem> = {}): BatchItem => ({
  id,
  kind: 'material',
  name: `row ${String.fromCharCode(122 - id)}`,
  sourceFolder: '',
  tags: [],
  givenFacts: {},
  missingFacts: [],
  proposedName: null,
  outOfRange: [],
  proposedTags: null,
  strangeTags: [],
  twinOf: null,
  category: 'surfaces.timber',
  categoryConfidence: 1,
  widthMm: 600,
  tiling: 'repeat',
  needsWidth: false,
  state: 'ready',
  message: null,
  figure: '',
  facts: {},
  findings: [],
  fixes: [],
  files: [],
  preview: null,
  inputKey: '',
  itemCode: null,
  conflict: null,
  decision: null,
  ...over,
})
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
  row(1),
  row(2, { findings: [finding('tileSeam', 'shouldFix'), finding('tileSeam', 'shouldFix')] }),
  row(3, { findings: [finding('normalDirectX', 'mustFix', 'flipGreen'), finding('tileSeam', 'shouldFix')] }),
  row(4, { state: 'failed' }),
  row(5, { needsWidth: true }),
  row(6, { state: 'accepted', findings: [finding('normalDirectX', 'mustFix', 'flipGreen')] }),
  row(7, { fixes: [{ code: 'flipGreen', finding: 'normalDirectX', subject: null }] }),
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
    expect(isDoubtful(row(8, { categoryConfidence: 0.2 }))).toBe(true)
  })

  it('by name, whatever the categories', () => {
    expect(ids(viewRows(rows, '', 'name'))).toEqual([7, 6, 5, 4, 3, 2, 1])
  })

  it('knows what is off the standard, and which row a loose file comes from', () => {
    const off = [row(1, { missingFacts: ['maker'] }), row(2, { strangeTags: ['x'] }), row(3, { proposedName: 'Row' })]
    expect(off.every(isOffStandard)).toBe(true)
    expect(
      [row(4), row(5, { proposedTags: 'accepting settles it' }), row(6, { ...off[0], state: 'accepted' })].some(isOffStandard),
    ).toBe(false)
    expect(ids(viewRows([...off, row(9)], 'offStandard', 'category'))).toEqual([1, 2, 3])
    const files = (...paths: string[]) => ({ files: paths.map(path => ({ path, role: 'baseColor', url: '' })) })
    const homes = [row(1, files('A/Oak_col.png')), row(2, files('A/Oakum_col.png')), row(3, files('B/Oak_col.png'))]
    expect(findHome(homes, 'A/Oak_height.png')?.id).toBe(1)
    expect(findHome(homes, 'A/Oakum_height.png')?.id).toBe(2)
    expect(findHome(homes, 'C/Oak_height.png')).toBeNull()
    expect(findHome(homes, 'A/Ash.png')).toBeNull()
  })

  it('says what became of what was accepted', () => {
    expect(describeAccepted([row(1), row(2), row(3, { decision: 'newVersion' }), row(4, { decision: 'link' })])).toBe(
      '2 items accepted as drafts, 1 new version, 1 linked to what the library has.',
    )
    expect(describeAccepted([row(1)])).toBe('1 item accepted as a draft.')
    expect(describeAccepted([row(1), row(2, { twinOf: 'row y' })])).toBe(
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
