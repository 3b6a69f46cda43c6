import { describe, expect, it } from 'vitest'
import { type CategoryRules, checkStandard, NO_RULES, properTags, resolveRules, shippedRules } from './category-rules'

const own = (entries: [string, Partial<CategoryRules>][]) =>
  new Map(entries.map(([path, rules]) => [path, { ...NO_RULES, ...rules }]))

const NO_WORDS = new Set<string>()

describe('rules of a category', () => {
  it('are its own, else those above it', () => {
    const rules = own([
      ['furniture', { requiredFacts: ['maker'], namePattern: '{name:sentence}', triangleBudget: 90_000 }],
      ['furniture.chairs', { triangleBudget: 30_000 }],
    ])
    expect(resolveRules('furniture.chairs', rules)).toMatchObject({
      requiredFacts: ['maker'],
      namePattern: '{name:sentence}',
      triangleBudget: 30_000,
    })
    expect(resolveRules('furniture.sofas', rules).requiredFacts).toEqual(['maker'])
    expect(resolveRules('furniture', rules).triangleBudget).toBe(90_000)
  })

  it('ranges and tags add to those from above; what is nearer wins for the same one', () => {
    const rules = own([
      [
        'surfaces',
        {
          factRanges: [
            { fact: 'lrv', low: 2, high: 90 },
            { fact: 'meanRoughness', low: 0.05, high: null },
          ],
          tags: [{ word: 'worn', synonyms: ['old'] }],
          targets: ['gltf'],
        },
      ],
      [
        'surfaces.timber',
        { factRanges: [{ fact: 'lrv', low: 5, high: 70 }], tags: [{ word: 'oak', synonyms: [] }], mapPacking: 'packed' },
      ],
    ])
    const timber = resolveRules('surfaces.timber', rules)
    expect(timber.factRanges).toEqual([
      { fact: 'meanRoughness', low: 0.05, high: null },
      { fact: 'lrv', low: 5, high: 70 },
    ])
    expect(timber.tags?.map(t => t.word)).toEqual(['worn', 'oak'])
    expect(timber).toMatchObject({ targets: ['gltf'], mapPacking: 'packed' })
    expect(resolveRules('surfaces.metal', rules)).toMatchObject({ tags: [{ word: 'worn' }], mapPacking: null })
  })

  it('ship with the sizes and budgets of the house tree', () => {
    expect(resolveRules('furniture.chairs', new Map())).toMatchObject({ expectedSizeM: [0.4, 1.3], triangleBudget: 200_000 })
    expect(resolveRules('vegetation.trees', new Map()).requiredFacts).toContain('botanicalName')
    expect(resolveRules('nowhere', new Map())).toEqual({
      ...NO_RULES,
      requiredFacts: ['maker', 'licence'],
      namePattern: '{name}',
    })
    expect(shippedRules('surfaces.timber')).toEqual(NO_RULES)
  })
})

describe('against the standard', () => {
  const rules = { ...NO_RULES, requiredFacts: ['maker', 'licence'], namePattern: '{name:sentence}' }
  it('a thing with its facts and its name has nothing to change', () => {
    expect(checkStandard(rules, 'Oak plank', { maker: 'Vale', licence: 'all' }, NO_WORDS)).toMatchObject({
      missingFacts: [],
      proposedName: null,
      outOfRange: [],
      proposedTags: null,
      strangeTags: [],
    })
  })
  it('missing facts and another name are told apart', () => {
    expect(checkStandard(rules, 'OAK_plank_2k', { maker: 'Vale', licence: '' }, NO_WORDS)).toMatchObject({
      missingFacts: ['licence'],
      proposedName: 'Oak plank',
    })
  })
  it('a fact that only the name needs counts as missing too, once', () => {
    const plants = { ...NO_RULES, requiredFacts: ['botanicalName'], namePattern: '{botanicalName} {height}' }
    expect(checkStandard(plants, 'Birch', {}, NO_WORDS)).toMatchObject({
      missingFacts: ['botanicalName', 'height'],
      proposedName: null,
    })
  })
  it('a pattern that does not read proposes nothing', () => {
    expect(checkStandard({ ...rules, namePattern: '{na' }, 'X', { maker: 'a', licence: 'b' }, NO_WORDS).proposedName).toBeNull()
  })

  it('a measured fact may be told to stay within a range, open on either side', () => {
    const ranged = {
      ...NO_RULES,
      factRanges: [
        { fact: 'lrv', low: 10, high: 80 },
        { fact: 'triangles', low: null, high: 5000 },
      ],
    }
    expect(checkStandard(ranged, 'x', { lrv: 85, triangles: 4000 }, NO_WORDS).outOfRange).toEqual([
      { fact: 'lrv', low: 10, high: 80, value: 85 },
    ])
    expect(checkStandard(ranged, 'x', { lrv: 10, triangles: 5001 }, NO_WORDS).outOfRange.map(r => r.fact)).toEqual(['triangles'])
    // What was not measured is not out of its range.
    expect(checkStandard(ranged, 'x', { lrv: 'unknown' }, NO_WORDS).outOfRange).toEqual([])
  })

  it('tags are put into the house’s words, once each; words that the house has not are told', () => {
    const house = {
      ...NO_RULES,
      tags: [
        { word: 'oak', synonyms: ['Eiche', 'quercus'] },
        { word: 'worn', synonyms: [] },
      ],
    }
    expect(checkStandard(house, 'x', { tags: 'eiche, Worn, OAK, shiny' }, NO_WORDS)).toMatchObject({
      proposedTags: 'oak, worn, shiny',
      strangeTags: ['shiny'],
    })
    expect(checkStandard(house, 'x', { tags: 'oak, worn' }, NO_WORDS)).toMatchObject({ proposedTags: null, strangeTags: [] })
    expect(checkStandard(NO_RULES, 'x', { tags: 'anything' }, NO_WORDS)).toMatchObject({ proposedTags: null, strangeTags: [] })
    expect(properTags([], house.tags)).toEqual([])
  })
})
