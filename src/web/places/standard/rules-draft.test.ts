import { describe, expect, it } from 'vitest'
import { type CategoryRules, NO_RULES } from '#core/standard/category-rules'
import { formatTags, parseTags, toDraft, toRules } from './rules-draft'

const rules: CategoryRules = {
  requiredFacts: ['maker', 'licence'],
  namePattern: '{name}',
  expectedSizeM: [0.4, 1.3],
  triangleBudget: 200_000,
  mapBudgetPx: 4096,
  mapPacking: 'packed',
  factRanges: [
    { fact: 'meanRoughness', low: 0.2, high: null },
    { fact: 'lrv', low: 0, high: 85 },
  ],
  tags: [
    { word: 'oak', synonyms: ['eiche', 'quercus'] },
    { word: 'rustic', synonyms: [] },
  ],
  targets: ['gltf'],
}

describe('rules as they are typed', () => {
  it('come back as they were, and an empty form says nothing', () => {
    expect(toRules(toDraft(rules))).toEqual(rules)
    expect(toRules(toDraft(NO_RULES))).toEqual(NO_RULES)
  })

  it('half a size, a range without a figure and one without a fact say nothing', () => {
    const draft = {
      ...toDraft(NO_RULES),
      smallestM: '2',
      ranges: [
        { fact: 'lrv', low: '', high: 'x' },
        { fact: '', low: '1', high: '' },
      ],
    }
    expect(toRules(draft)).toEqual(NO_RULES)
    expect(toRules({ ...draft, largestM: '3,5' }).expectedSizeM).toEqual([2, 3.5])
  })

  it('tags are a word a line, its other words behind an equals sign', () => {
    expect(parseTags('oak = eiche , quercus\n\n = nothing\nrustic\noak = eiche, chêne')).toEqual([
      { word: 'oak', synonyms: ['eiche', 'quercus', 'chêne'] },
      { word: 'rustic', synonyms: [] },
    ])
    expect(formatTags(rules.tags!)).toBe('oak = eiche, quercus\nrustic')
  })
})
