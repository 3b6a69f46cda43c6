import { describe, expect, it } from 'vitest'
import { HOUSE_RIGS } from '../render/rigs/house-rigs'
import { findCategory, HOUSE_CATEGORIES, proposeTitle, suggestCategory } from './categories'

describe('the house tree', () => {
  it('has every parent before its children, one prefix each, and a rig that exists', () => {
    const seen = new Set<string>()
    for (const c of HOUSE_CATEGORIES) {
      const parent = c.path.split('.').slice(0, -1).join('.')
      expect(parent === '' || seen.has(parent)).toBe(true)
      seen.add(c.path)
      expect(c.path).toMatch(/^[a-z]+(\.[a-z]+)*$/)
      expect(c.prefix).toMatch(/^[A-Z]{3}$/)
      expect(HOUSE_RIGS[c.rig]).toBeDefined()
      if (parent) expect(findCategory(parent)!.kind).toBe(c.kind)
    }
    expect(new Set(HOUSE_CATEGORIES.map(c => c.prefix)).size).toBe(HOUSE_CATEGORIES.length)
  })

  it('keeps sofas apart from chairs', () => {
    expect(suggestCategory('model', ['lounge', 'sofa']).path).toBe('furniture.sofas')
    expect(suggestCategory('model', ['slat', 'chair']).path).toBe('furniture.chairs')
  })

  it.each([
    ['material', ['oak', 'plank'], 'surfaces.timber'],
    ['material', ['brick', 'running', 'bond'], 'surfaces.masonry'],
    ['material', ['glass', 'frosted'], 'surfaces.glass'],
    ['model', ['betula', 'pendula'], 'vegetation.trees'],
    ['model', ['desk', 'lamp', 'brass', 'lighting'], 'lighting'],
    ['environment', ['studio', 'three', 'softboxes'], 'environments.studio'],
  ] as const)('%s %s goes to %s', (kind, words, path) => {
    const found = suggestCategory(kind, words)
    expect(found.confidence).toBeGreaterThan(0.3)
    expect(found.path).toBe(path)
  })

  it('says how little it knows when it knows nothing', () => {
    expect(suggestCategory('material', ['xyzzy'])).toEqual({ path: 'surfaces', confidence: 0.2 })
    expect(suggestCategory('model', []).confidence).toBeLessThan(0.5)
  })

  it('makes titles of words', () => {
    expect(proposeTitle(['oak', 'plank', 'natural'])).toBe('Oak plank natural')
    expect(proposeTitle([])).toBe('Untitled')
  })
})
