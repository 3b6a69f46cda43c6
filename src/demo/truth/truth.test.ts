import { mkdtemp, rm } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { makeTruth, type Planted } from './make-truth'
import { scoreTruth } from './score-truth'
import { takeIn } from './take-in'

describe('what Intake finds against what was planted', () => {
  it('is nearly everything, and little beside it, on a seed that nobody tuned for', async () => {
    const root = await mkdtemp(join(tmpdir(), 'muscovite-truth-'))
    try {
      const { planted } = await makeTruth(root, 20_261_126, { times: 1, materials: 3, models: 2, skies: 2, mapPx: 256 })
      expect(planted.flatMap(p => p.codes).length).toBeGreaterThan(40)
      const { recall, precision, misses } = scoreTruth(planted, await takeIn(root))
      expect({ misses, good: recall >= 0.95 && precision >= 0.95 }).toMatchObject({ good: true })
    } finally {
      await rm(root, { recursive: true, force: true })
    }
  })

  it('is scored item by item, each finding once; what follows from a fault is neither right nor wrong', () => {
    const planted: Planted[] = [
      { path: 'A/one', kind: 'material', codes: ['tileSeam', 'bakedLight'], entailed: ['normalFlat'] },
      { path: 'A/two', kind: 'material', codes: [], entailed: [] },
    ]
    const found = [
      { path: 'root/A/one', codes: ['tileSeam', 'tileSeam', 'normalFlat'] },
      { path: 'root/A/two', codes: ['badPixels', 'headingOff'] },
      { path: 'root/B/other', codes: ['emptyFile'] },
    ]
    const { recall, precision, checks, misses } = scoreTruth(planted, found)
    expect(recall).toBe(0.5)
    expect(precision).toBeCloseTo(1 / 3)
    expect(checks.tileSeam).toEqual({ planted: 1, found: 1, false: 0 })
    expect(checks.bakedLight).toEqual({ planted: 1, found: 0, false: 0 })
    expect(misses).toEqual([
      'missed bakedLight in A/one',
      'false badPixels in A/two',
      'false emptyFile in root/B/other, where nothing was put',
    ])
    expect(scoreTruth([], [])).toMatchObject({ recall: 1, precision: 1 })
  })
})
