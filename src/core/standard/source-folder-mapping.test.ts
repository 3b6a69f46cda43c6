import { describe, expect, it } from 'vitest'
import { proposeCategoryOf } from './source-folder-mapping'

const vote = (category: string, confidence = 0.9) => ({ category, confidence })

describe('a supplier’s source folder', () => {
  it('goes where somebody sent it before, whatever it holds', () => {
    const found = proposeCategoryOf(
      'material',
      'Wood / Flooring',
      [vote('surfaces.stone'), vote('surfaces.stone')],
      'surfaces.timber',
    )
    expect(found).toEqual({ category: 'surfaces.timber', confidence: 0.98, reason: 'remembered' })
    // A decision for another kind of thing is none for this.
    expect(proposeCategoryOf('model', 'Wood', [vote('furniture')], 'surfaces.timber').category).toBe('furniture')
  })

  it('goes by the words of its name, the last part most, plural or not', () => {
    expect(proposeCategoryOf('material', 'Interior / Fabrics', [], null).category).toBe('surfaces.textile')
    expect(proposeCategoryOf('material', 'Brick / Paving', [], null).category).toBe('surfaces.ground')
    expect(proposeCategoryOf('model', 'Seating / Lounge Sofas', [], null)).toMatchObject({
      category: 'furniture.sofas',
      reason: 'words',
    })
  })

  it('goes by what lies in it where its name says nothing, surer the more agree', () => {
    const few = proposeCategoryOf('material', 'Set 04', [vote('surfaces.metal', 0.6)], null)
    const many = proposeCategoryOf('material', 'Set 04', Array(8).fill(vote('surfaces.metal')), null)
    const split = proposeCategoryOf(
      'material',
      'Set 04',
      [...Array(4).fill(vote('surfaces.metal')), ...Array(4).fill(vote('surfaces.glass'))],
      null,
    )
    for (const found of [few, many]) expect(found).toMatchObject({ category: 'surfaces.metal', reason: 'content' })
    expect(many.confidence).toBeGreaterThan(few.confidence)
    expect(split.confidence).toBeLessThan(0.3)
  })

  it('says how little it knows of an empty source folder with a name of no meaning', () => {
    expect(proposeCategoryOf('environment', 'Misc', [], null).confidence).toBeLessThan(0.3)
  })
})
