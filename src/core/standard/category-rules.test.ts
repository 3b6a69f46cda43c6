import { describe, expect, it } from 'vitest'
import { type CategoryRules, checkWords, NO_RULES, resolveRules, shippedRules } from './category-rules'

const own = (entries: [string, Partial<CategoryRules>][]) =>
  new Map(entries.map(([path, rules]) => [path, { ...NO_RULES, ...rules }]))

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
    expect(checkWords(rules, 'Oak plank', { maker: 'Vale', licence: 'all' })).toEqual({ missingFacts: [], proposedName: null })
  })
  it('missing facts and another name are told apart', () => {
    expect(checkWords(rules, 'OAK_plank_2k', { maker: 'Vale', licence: '' })).toEqual({
      missingFacts: ['licence'],
      proposedName: 'Oak plank',
    })
  })
  it('a fact that only the name needs counts as missing too, once', () => {
    const plants = { ...NO_RULES, requiredFacts: ['botanicalName'], namePattern: '{botanicalName} {height}' }
    expect(checkWords(plants, 'Birch', {})).toEqual({ missingFacts: ['botanicalName', 'height'], proposedName: null })
  })
  it('a pattern that does not read proposes nothing', () => {
    expect(checkWords({ ...rules, namePattern: '{na' }, 'X', { maker: 'a', licence: 'b' }).proposedName).toBeNull()
  })
})
