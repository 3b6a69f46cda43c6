import { describe, expect, it } from 'vitest'
import { HOUSE_VOCABULARY, ROOMS_AND_USES } from './house-vocabulary'
import { firstWordsOf, readWordLine, resolveWordLines } from './word-lines'

const oak = HOUSE_VOCABULARY.find(([word]) => word === 'oak')!

describe('the vocabulary in force', () => {
  it('is what ships where the house has said nothing', () => {
    const lines = resolveWordLines([])
    expect(lines).toHaveLength(HOUSE_VOCABULARY.length)
    expect(new Set(lines.map(l => l.key)).size).toBe(lines.length)
  })

  it('has the house’s own lines first, its changes in place, and not what it took out', () => {
    const lines = resolveWordLines([
      { id: 1, replaces: null, words: ['smoked oak', 'Räuchereiche'], isUse: false },
      { id: 2, replaces: 'oak', words: ['oak', 'Eiche', 'rovere'], isUse: false },
      { id: 3, replaces: 'rose', words: [], isUse: false },
      { id: 4, replaces: null, words: ['sauna', 'Schwitzbad'], isUse: true },
    ])
    expect(lines.slice(0, 2).map(l => l.words[0])).toEqual(['sauna', 'smoked oak'])
    expect(lines.find(l => l.key === 'oak')).toEqual({
      key: 'oak',
      words: ['oak', 'Eiche', 'rovere'],
      isUse: false,
      origin: 'changed',
    })
    expect(lines.some(l => l.key === 'rose')).toBe(false)
    // Where things are used: those that ship, and what the house says is one.
    expect(lines.filter(l => l.isUse).map(l => l.words[0])).toEqual(['sauna', ...ROOMS_AND_USES.map(([word]) => word)])
    expect(firstWordsOf(lines).has('oak') && !firstWordsOf(lines).has('rovere')).toBe(true)
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
