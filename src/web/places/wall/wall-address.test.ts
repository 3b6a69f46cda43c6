import { describe, expect, it } from 'vitest'
import { readAddress, writeAddress } from './wall-address'

describe('wall address', () => {
  it('holds the view and gives it back', () => {
    const address = {
      words: 'oak plank',
      category: 'surfaces.timber',
      kind: 'material',
      state: 'approved',
      library: 'house',
      finding: 'tileSeam',
    } as const
    expect(readAddress(writeAddress(address))).toEqual(address)
  })

  it('leaves out what is not set', () => {
    expect(writeAddress(readAddress(new URLSearchParams('words=oak'))).toString()).toBe('words=oak')
  })

  it('shows the whole wall for an address that makes no sense', () => {
    expect(readAddress(new URLSearchParams('kind=spaceship')).kind).toBe('')
  })
})
