import { describe, expect, it } from 'vitest'
import { sayRefused } from './refused'

const refuse = (count: number, prefix: string, reason: string) =>
  Array.from({ length: count }, (_, i) => ({ id: i, code: `${prefix}-${i + 1}`, reason }))

describe('what was not done', () => {
  it('is said by its reason, each once, the commonest first', () => {
    expect(sayRefused([...refuse(1, 'TIM', 'It is withdrawn.'), ...refuse(5, 'SOF', 'It is there already.')])).toBe(
      '6 not done. SOF-1, SOF-2, SOF-3 and 2 more: It is there already. TIM-1: It is withdrawn.',
    )
  })

  it('stays short where reasons are many', () => {
    const many = ['One.', 'Two.', 'Three.', 'Four.'].flatMap((reason, k) => refuse(4 - k, 'STO', reason))
    expect(sayRefused(many)).toBe(
      '10 not done. STO-1, STO-2, STO-3 and 1 more: One. STO-1, STO-2, STO-3: Two. And 3 for other reasons.',
    )
  })
})
