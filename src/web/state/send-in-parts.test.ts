import { describe, expect, it } from 'vitest'
import { sendInParts } from './send-in-parts'

const ids = Array.from({ length: 1234 }, (_, i) => i + 1)

describe('many sent in parts', () => {
  it('are all sent, each once and in their order, no part larger than it may be', async () => {
    const parts: number[][] = []
    const sent: number[] = []
    const { all, error } = await sendInParts(
      ids,
      500,
      async part => {
        parts.push(part)
        return { data: { changed: part.filter(id => id % 2 === 0), refused: [] } }
      },
      n => sent.push(n),
    )
    expect(sent).toEqual([0, 500, 1000])
    expect(parts.map(p => p.length)).toEqual([500, 500, 234])
    expect(parts.flat()).toEqual(ids)
    expect(all.changed).toHaveLength(617)
    expect(error).toBeNull()
  })

  it('that are refused on the way leave what was done, and send no more', async () => {
    let sent = 0
    const { all, error } = await sendInParts(ids, 500, async part =>
      ++sent === 2 ? { error: 'away' } : { data: { changed: part, refused: [] } },
    )
    expect([sent, all.changed.length, error]).toEqual([2, 500, 'away'])
  })
})
