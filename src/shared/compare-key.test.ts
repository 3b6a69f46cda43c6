import { describe, expect, it } from 'vitest'
import { formatCompareKey, MOST_COMPARED, parseCompareKey, parseCompareKeys } from './compare-key'

describe('the key of a compared picture', () => {
  it('goes there and back', () => {
    for (const text of ['TIM-0142', 'TIM-0142.v2', 'SKY-0001.final', 'ENA-0003.v12.draft.material-stage', 'OBJ-7.leaf-close-up'])
      expect(formatCompareKey(parseCompareKey(text)!)).toBe(text)
    expect(parseCompareKey('TIM-0142.v2.final')).toEqual({ code: 'TIM-0142', version: 2, quality: 'final', rig: null })
  })

  it('is refused when it is none', () => {
    for (const text of ['', 'oak', 'TIM-0142.v0', 'TIM-0142.v1.v2', 'TIM-0142.draft.final', "TIM-0142.'; drop", 'TIM-0142.'])
      expect(parseCompareKey(text), text).toBeNull()
  })

  it('stands in a row of six at most, without what is none', () => {
    expect(parseCompareKeys('TIM-0001,,nonsense,TIM-0002').map(k => k.code)).toEqual(['TIM-0001', 'TIM-0002'])
    expect(parseCompareKeys(Array(20).fill('TIM-0001').join(','))).toHaveLength(MOST_COMPARED)
  })
})
