import { describe, expect, it } from 'vitest'
import { offWords, rangeWords } from './standard'

describe('what is off the standard, in words', () => {
  it('a range says its unit once, and may be open on either side', () => {
    expect(rangeWords('lrv', 5, 30)).toBe('5 to 30 LRV')
    expect(rangeWords('triangles', null, 5000)).toBe('at most 5\u202f000')
    expect(rangeWords('meanRoughness', 0.2, null)).toBe('at least 0.2')
    expect(rangeWords('lrv', null, null)).toBe('anything')
  })

  it('names what is missing, out of range, or not in our words; nothing where all is well', () => {
    const fine = { missingFacts: [], outOfRange: [], proposedTags: null, strangeTags: [] }
    expect(offWords(fine)).toEqual([])
    expect(
      offWords({
        missingFacts: ['maker', 'licence'],
        outOfRange: [{ fact: 'lrv', low: 5, high: 30, value: 35.4 }],
        proposedTags: 'oak',
        strangeTags: ['shiny'],
      }),
    ).toEqual([
      'without maker, licence',
      'light reflectance 35.4 LRV where 5 to 30 LRV is allowed',
      'in our words: oak',
      'no word of ours: shiny',
    ])
  })
})
