import { describe, expect, it } from 'vitest'
import { HOUSE_VOCABULARY } from './house-vocabulary'
import { readWordLine, resolveWordLines } from './word-lines'

const oak = HOUSE_VOCABULARY.find(([word]) => word === 'oak')!

describe('the vocabulary in force', () => {
  it('is what ships where the house has said nothing', () => {
    const lines = resolveWordLines([])
    expect(lines).toHaveLength(HOUSE_VOCABULARY.length)
    expect(new Set(lines.map(l => l.key)).size).toBe(lines.length)
  })

  it('has the house’s own lines first, its changes in place, and not what it took out', () => {
    const lines = resolveWordLines([
      { id: 1, replaces: null, words: ['smoked oak', 'Räuchereiche'] },
      { id: 2, replaces: 'oak', words: ['oak', 'Eiche', 'rovere'] },
      { id: 3, replaces: 'rose', words: [] },
      { id: 4, replaces: null, words: ['reclaimed', 'Altholz'] },
    ])
    expect(lines.slice(0, 2).map(l => l.words[0])).toEqual(['reclaimed', 'smoked oak'])
    expect(lines.find(l => l.key === 'oak')).toEqual({ key: 'oak', words: ['oak', 'Eiche', 'rovere'], origin: 'changed' })
    expect(lines.some(l => l.key === 'rose')).toBe(false)
    expect(lines).toHaveLength(HOUSE_VOCABULARY.length + 1)
    expect(oak).not.toContain('rovere')
  })

  it('a line is read as it is typed: each word once', () => {
    expect(readWordLine(' oak, Eiche;  EICHE ,, stainless   steel\nrovere')).toEqual([
      'oak',
      'Eiche',
      'stainless steel',
      'rovere',
    ])
    expect(readWordLine(' , ')).toEqual([])
  })
})
